/** The folder that holds the database and the server's secret. */
import { randomBytes } from 'node:crypto';
import {
  accessSync,
  chmodSync,
  constants,
  existsSync,
  linkSync,
  mkdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { StartProblem } from './config.ts';

/** Nobody but the server's own account reads what it makes from now on: files 0600, folders 0700. */
export const keepToOneself = (): void => void process.umask(0o077);

/**
 * Makes the folder if it is missing, for the server's account alone. One that is there is tightened where it is the account's own and
 * nobody else may write in it; otherwise it returns a sentence that says what to do. Throws a StartProblem when nothing can be written
 * there.
 */
export function openDataFolder(folder: string): string | null {
  const probe = join(folder, `.write-probe-${process.pid}`);
  try {
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    accessSync(folder, constants.W_OK);
    writeFileSync(probe, '');
    rmSync(probe);
    return tightened(folder);
  } catch (error) {
    const why = (error as NodeJS.ErrnoException).code ?? 'unknown reason';
    throw new StartProblem(
      `Zest Bell cannot write to its data folder ${folder} (${why}).\n` +
        `Make the folder writable, or name another one with ZEST_DATA.`,
    );
  }
}

const OTHERS = 0o077;
const OTHERS_WRITE = 0o022;

function tightened(folder: string): string | null {
  const { mode, uid } = statSync(folder);
  if ((mode & OTHERS) === 0) return null;
  if (uid !== process.getuid?.() || (mode & OTHERS_WRITE) !== 0)
    return `Other accounts of this machine can read the data folder ${folder}. Give it to the server’s account alone: chmod 700 ${folder}`;
  chmodSync(folder, 0o700);
  for (const name of ['zest-bell.db', 'zest-bell.db-wal', 'zest-bell.db-shm', 'session-secret'])
    if (existsSync(join(folder, name))) chmodSync(join(folder, name), 0o600);
  return null;
}

/** The secret that signs session cookies; made on the first start, readable by the server's user alone. */
export function sessionSecret(folder: string): string {
  const file = join(folder, 'session-secret');
  if (!existsSync(file)) {
    // Written whole before it has its name: another process starting on the same folder never reads half of it.
    const whole = join(folder, `.session-secret-${process.pid}`);
    writeFileSync(whole, randomBytes(32).toString('hex'), { mode: 0o600 });
    try {
      linkSync(whole, file);
    } catch (error) {
      // The other one was faster: its secret is the one.
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    } finally {
      rmSync(whole);
    }
  }
  return readFileSync(file, 'utf8').trim();
}

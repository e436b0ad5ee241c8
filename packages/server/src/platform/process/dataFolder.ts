/** The folder that holds the database and the server's secret. */
import { randomBytes } from 'node:crypto';
import { accessSync, constants, existsSync, linkSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { StartProblem } from './config.ts';

/** Makes the folder if it is missing. Throws a StartProblem when nothing can be written there. */
export function openDataFolder(folder: string): void {
  const probe = join(folder, `.write-probe-${process.pid}`);
  try {
    mkdirSync(folder, { recursive: true });
    accessSync(folder, constants.W_OK);
    writeFileSync(probe, '');
    rmSync(probe);
  } catch (error) {
    const why = (error as NodeJS.ErrnoException).code ?? 'unknown reason';
    throw new StartProblem(
      `Zest Bell cannot write to its data folder ${folder} (${why}).\n` +
        `Make the folder writable, or name another one with ZEST_DATA.`,
    );
  }
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

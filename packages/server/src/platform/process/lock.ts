/** One process at a time in a folder where stand-ins keep their state. */
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { StartProblem } from './config.ts';

/** Takes the folder for this process. Throws a StartProblem while another living process has it. */
export function lockFolder(folder: string): () => void {
  const file = join(folder, 'demo.lock');
  for (let attempt = 0; attempt < 2; attempt++) {
    try {
      writeFileSync(file, String(process.pid), { flag: 'wx' });
      return () => rmSync(file, { force: true });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      const pid = Number(readFileSync(file, 'utf8'));
      if (pid !== process.pid && lives(pid)) {
        throw new StartProblem(
          `The demo in ${folder} is already running (process ${pid}).\n` +
            `Use that one, stop it first, or name another folder with ZEST_DATA.`,
        );
      }
      // Left behind by a process that was killed.
      rmSync(file, { force: true });
    }
  }
  throw new StartProblem(`The demo in ${folder} is being started by somebody else right now.`);
}

function lives(pid: number): boolean {
  if (!Number.isInteger(pid) || pid <= 0) return false;
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

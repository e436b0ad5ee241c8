// Runs the bench: on the server's share of memory for what is new, as `npm start` and the thread for replays have it, and for a drag in
// the composer on a browser's.
import { spawnSync } from 'node:child_process';
import { root } from './steps.mjs';

const asked = process.argv.slice(2);
const room = asked.includes('reach') ? [] : ['--max-semi-space-size=32'];
const { status } = spawnSync(process.execPath, ['--expose-gc', ...room, '--import', 'tsx', 'bench/run.ts', ...asked], {
  cwd: root,
  stdio: 'inherit',
});
process.exit(status ?? 1);

// Installs and builds what is missing, then runs the server in this process; with the demo unless ZEST_DEMO=off. The server plays the
// demo while the interface is bundled, and prints its address when both are there.
import { spawn } from 'node:child_process';
import { install, needNode, root, run, unbuiltParts } from './steps.mjs';

needNode();
process.chdir(root);
install('start');
const unbuilt = unbuiltParts();
if (unbuilt.length > 0) console.error('Building …');
if (unbuilt.includes('server')) run(process.execPath, ['scripts/build.mjs', 'server'], 'Building');
process.env.ZEST_DEMO ||= 'on';
process.env.NODE_ENV ||= 'production';
globalThis.zestBellInterface = unbuilt.includes('web') ? bundle() : Promise.resolve();
await import('../packages/server/dist/main.js');

/** Ends when the interface is there; where it cannot be bundled, so does this process. */
function bundle() {
  return new Promise((done) => {
    const child = spawn(process.execPath, ['scripts/build.mjs', 'web'], { stdio: ['ignore', 2, 2] });
    child.once('error', (error) => failed(error.message));
    child.once('exit', (code) => (code === 0 ? done() : failed(`it ended with ${code}`)));
  });
}

function failed(why) {
  console.error(`\nBundling the interface did not work (${why}).`);
  process.exit(1);
}

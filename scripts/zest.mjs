// The command line over what is built; installs and builds what is missing. What it prints is its answer alone.
import { buildIfNeeded, install, needNode, root } from './steps.mjs';

needNode();
const from = process.cwd();
process.chdir(root);
install('start');
buildIfNeeded();
process.chdir(from);
await import('../packages/server/dist/cli/zest.js');

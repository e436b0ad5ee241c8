// Installs and builds what is missing, then runs the server in this process; with the demo unless ZEST_DEMO=off.
import { buildIfNeeded, install, needNode, root } from './steps.mjs';

needNode();
process.chdir(root);
install();
buildIfNeeded();
process.env.ZEST_DEMO ||= 'on';
process.env.NODE_ENV ||= 'production';
await import('../packages/server/dist/main.js');

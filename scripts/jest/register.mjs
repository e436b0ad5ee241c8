// Preloaded into the processes that run tests without a virtual machine: TypeScript, and Jest's globals as a module.
import { register } from 'node:module';
import 'tsx';

register('./hooks.mjs', import.meta.url);

/** How long what a test file closes at the end may take once the process that runs it is gone, in ms. */
const ENDS_WITHIN = 5_000;
// Jest that was killed leaves no process behind.
process.once('disconnect', () => setTimeout(() => process.exit(1), ENDS_WITHIN));

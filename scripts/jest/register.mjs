// Preloaded into the processes that run tests without a virtual machine: TypeScript, and Jest's globals as a module.
import { register } from 'node:module';
import 'tsx';

register('./hooks.mjs', import.meta.url);

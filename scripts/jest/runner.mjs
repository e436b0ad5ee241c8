// Runs the tests of core, stand-ins and server in bare Node processes: Jest's virtual machine cost a third of their time.
import { fileURLToPath } from 'node:url';
import { createRunner } from 'jest-light-runner';

const preload = fileURLToPath(new URL('./register.mjs', import.meta.url));

export default class BareRunner extends createRunner({ runtime: 'child_process' }) {
  /** The workers take their Node options from the environment; other projects must not see ours. */
  async runTests(...args) {
    const before = process.env.NODE_OPTIONS;
    process.env.NODE_OPTIONS = `--no-warnings --conditions=zest-source --import=${preload}`;
    try {
      await super.runTests(...args);
    } finally {
      if (before === undefined) delete process.env.NODE_OPTIONS;
      else process.env.NODE_OPTIONS = before;
    }
  }
}

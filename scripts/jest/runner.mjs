// Runs tests in bare Node processes: Jest's virtual machine cost a third of their time.
import { fileURLToPath } from 'node:url';
import { createRunner } from 'jest-light-runner';

const preload = fileURLToPath(new URL('./register.mjs', import.meta.url));

/** How long a test or hook may take unless it says otherwise, in ms. A passing test never waits for this. */
const LIMIT = 120_000;

export default class BareRunner extends createRunner({ runtime: 'child_process' }) {
  constructor(globalConfig, context, options = {}) {
    super(globalConfig, context, options);
    // With one worker it would run in Jest's own process, which reads no TypeScript.
    this._runtime = 'child_process';
    const { conditions = ['zest-source'], limit = LIMIT } = options;
    this._env = {
      NODE_OPTIONS: ['--no-warnings', ...conditions.map((c) => `--conditions=${c}`), `--import=${preload}`].join(' '),
      ZEST_TEST_LIMIT: String(limit),
    };
  }

  /** The workers take their environment from this process; other projects must not see ours. */
  async runTests(...args) {
    const before = Object.fromEntries(Object.keys(this._env).map((name) => [name, process.env[name]]));
    Object.assign(process.env, this._env);
    try {
      await super.runTests(...args);
    } finally {
      for (const [name, value] of Object.entries(before))
        if (value === undefined) delete process.env[name];
        else process.env[name] = value;
    }
  }
}

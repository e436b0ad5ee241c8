// Runs tests in bare Node processes: Jest's virtual machine cost a third of their time.
import { fileURLToPath } from 'node:url';
import { createRunner } from 'jest-light-runner';

const preload = fileURLToPath(new URL('./register.mjs', import.meta.url));

/** How long a test or hook may take unless it says otherwise, in ms. A passing test never waits for this. */
const LIMIT = 120_000;

/** How long a whole test file may take, in ms. One that hangs is ended and named; the others continue. */
const FILE_LIMIT = 30 * 60_000;

/** What a process of the library sends to learn its settings, and the type of the answer. */
const ASKS = 'jest-light-runner-get-worker-data';
const ANSWERS = 'jest-light-runner-worker-data';

/** A channel to one process, which answers that process alone. */
function channelTo(workerData) {
  let send;
  return {
    onMessage(listener) {
      send = listener;
    },
    postMessage(message) {
      if (message === ASKS) send({ type: ANSWERS, workerData });
    },
  };
}

/**
 * The library's pools of processes, with a channel for each process. The library shares one channel: the first
 * process that asks is answered together with all others, and one that does not listen yet misses its answer, asks
 * in vain, and waits forever.
 */
class Pools extends Map {
  constructor(settings) {
    super();
    this._settings = settings;
  }

  set(projectConfig, { pool }) {
    const workerData = { ...this._settings, projectConfig };
    const run = async ({ path }) => {
      const signal = AbortSignal.timeout(FILE_LIMIT);
      try {
        return await pool.run(path, { channel: channelTo(workerData), signal });
      } catch (error) {
        throw signal.aborted ? new Error(`${path} did not end within ${FILE_LIMIT / 1000} s`) : error;
      }
    };
    return super.set(projectConfig, { pool, run });
  }
}

export default class BareRunner extends createRunner({ runtime: 'child_process' }) {
  constructor(globalConfig, context, options = {}) {
    super(globalConfig, context, options);
    // With one worker it would run in Jest's own process, which reads no TypeScript.
    this._runtime = 'child_process';
    this._testRunners = new Pools({ globalConfig, runtime: this._runtime });
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

// Runs tests for StrykerJS in its own process, again and again: each test file is bundled once and evaluated anew for each fault, with
// Jest's own `describe`, `test` and `expect`. Starting Jest for each fault instead takes about a second each time, a hundred times what
// most tests of the core take.
import { existsSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { register } from 'node:module';
import { join, relative } from 'node:path';
import process from 'node:process';
import { pathToFileURL } from 'node:url';
import { declareClassPlugin, PluginKind } from '@stryker-mutator/api/v1/plugin';
import {
  determineHitLimitReached,
  DryRunStatus,
  TestStatus,
  toMutantRunResult,
} from '@stryker-mutator/api/v1/test-runner';
import { build } from 'esbuild';
import { jestExpect } from '@jest/expect';
import * as circus from 'jest-circus';

/** What the instrumented code and this runner tell each other. */
const namespace = (globalThis.__stryker__ ??= {});

globalThis.__tests__ = {
  ...circus,
  expect: jestExpect,
  // A test that takes much longer than it ever does has found its fault: `testTimeoutMS` ends it.
  jest: { setTimeout: () => undefined },
};

const testGlobals = {
  name: 'test-globals',
  setup(build) {
    build.onResolve({ filter: /^@jest\/globals$/ }, () => ({ path: 'globals', namespace: 'tests' }));
    build.onLoad({ filter: /.*/, namespace: 'tests' }, () => ({
      contents: 'module.exports = globalThis.__tests__',
      loader: 'js',
    }));
  },
};

/** Workspace packages are bundled from their sources, all others are loaded once by Node. */
const packagesStayOutside = {
  name: 'packages-stay-outside',
  setup(build) {
    build.onResolve({ filter: /^[^./]/ }, ({ path, kind }) =>
      kind === 'entry-point' || path.startsWith('@zest-bell/') || path === '@jest/globals'
        ? undefined
        : { path, external: true },
    );
  },
};

/** Each module keeps its own place: `import.meta.url` names the source and not the bundle. */
const ownPlace = {
  name: 'own-place',
  setup(build) {
    build.onLoad({ filter: /packages\/[a-z]+\/src\/.*\.ts$/ }, ({ path }) => ({
      contents: readFileSync(path, 'utf8').replaceAll('import.meta.url', JSON.stringify(pathToFileURL(path).href)),
      loader: 'ts',
    }));
  },
};

async function bundled(file, bundle) {
  const built = await build({
    entryPoints: [file],
    bundle: true,
    write: false,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    conditions: ['zest-source'],
    logLevel: 'silent',
    plugins: [testGlobals, packagesStayOutside, ownPlace],
  });
  writeFileSync(`${bundle}.${process.pid}`, built.outputFiles[0].text);
  renameSync(`${bundle}.${process.pid}`, bundle);
}

class InProcessRunner {
  static inject = ['options'];
  #options;
  /** @type {{ file: string, bundle: string }[]} */
  #files = [];
  #evaluated = 0;

  constructor(options) {
    this.#options = options;
  }

  capabilities() {
    return { reloadEnvironment: true };
  }

  async init() {
    process.env.NODE_ENV = 'test';
    // Migrations are TypeScript that the server's tests load by themselves.
    register('./typescript.mjs', import.meta.url);
    const root = process.cwd();
    const files = this.#options.testPlaces.flatMap((place) =>
      place.endsWith('.test.ts')
        ? [join(root, place)]
        : readdirSync(join(root, place), { recursive: true })
            .filter((name) => name.endsWith('.test.ts'))
            .map((name) => join(root, place, name)),
    );
    this.#files = await Promise.all(
      [...new Set(files)].map(async (file) => {
        const bundle = file.replace(/\.test\.ts$/, '.bundle.mjs');
        // All processes read the same sources: the first bundles them for the others.
        if (!existsSync(bundle)) await bundled(file, bundle);
        return { file, bundle };
      }),
    );
  }

  async dryRun({ coverageAnalysis }) {
    if (coverageAnalysis !== 'off') namespace.mutantCoverage = { static: {}, perTest: {} };
    const tests = await this.#run(undefined, true);
    return { status: DryRunStatus.Complete, tests, mutantCoverage: namespace.mutantCoverage };
  }

  async mutantRun({ activeMutant, testFilter, disableBail, hitLimit, mutantActivation }) {
    namespace.mutantCoverage = undefined;
    namespace.hitLimit = hitLimit;
    namespace.hitCount = hitLimit ? 0 : undefined;
    const activate = () => (namespace.activeMutant = activeMutant.id);
    if (mutantActivation === 'static') activate();
    try {
      const tests = await this.#run(testFilter && new Set(testFilter), disableBail, activate);
      const endless = determineHitLimitReached(namespace.hitCount, namespace.hitLimit);
      return toMutantRunResult(endless ?? { status: DryRunStatus.Complete, tests }, disableBail);
    } finally {
      namespace.activeMutant = undefined;
    }
  }

  async #run(wanted, all, activate = () => undefined) {
    const results = [];
    for (const { file, bundle } of this.#files) {
      const place = relative(process.cwd(), file);
      if (wanted && ![...wanted].some((id) => id.startsWith(`${place}: `))) continue;
      circus.resetState();
      const idle = namespace.activeMutant;
      try {
        await import(`${pathToFileURL(bundle).href}?${++this.#evaluated}`);
      } catch (error) {
        results.push({
          id: place,
          name: place,
          timeSpentMs: 0,
          status: TestStatus.Failed,
          failureMessage: String(error),
        });
        if (!all) return results;
        continue;
      }
      if (idle === undefined) activate();
      results.push(...(await this.#runFile(place, wanted, all)));
      if (idle === undefined) namespace.activeMutant = undefined;
      if (!all && results.some((one) => one.status === TestStatus.Failed)) break;
    }
    return results;
  }

  async #runFile(place, wanted, all) {
    const results = [];
    let failed = false;
    const idOf = (test) => {
      const names = [];
      for (let at = test; at && at.name !== 'ROOT_DESCRIBE_BLOCK'; at = at.parent) names.unshift(at.name);
      return `${place}: ${names.join(' ')}`;
    };
    const skipUnwanted = (block) => {
      for (const child of block.children) {
        if (child.type === 'describeBlock') skipUnwanted(child);
        else if (wanted && !wanted.has(idOf(child))) child.mode = 'skip';
      }
    };
    circus.getState().testTimeout = this.#options.testTimeoutMS;
    const listen = (event) => {
      if (event.name === 'run_start') skipUnwanted(circus.getState().rootDescribeBlock);
      if (event.name === 'test_start') {
        namespace.currentTestId = idOf(event.test);
        if (failed && !all) event.test.mode = 'skip';
      }
      if (event.name !== 'test_done') return;
      const id = idOf(event.test);
      const told = { id, name: id, timeSpentMs: event.test.duration ?? 0 };
      if (event.test.errors.length === 0) results.push({ ...told, status: TestStatus.Success });
      else {
        failed = true;
        const [error] = event.test.errors.flat();
        results.push({ ...told, status: TestStatus.Failed, failureMessage: String(error?.message ?? error) });
      }
      namespace.currentTestId = undefined;
    };
    circus.addEventHandler(listen);
    try {
      await circus.run();
    } finally {
      circus.removeEventHandler(listen);
    }
    return results;
  }
}

export const strykerPlugins = [declareClassPlugin(PluginKind.TestRunner, 'in-process', InProcessRunner)];

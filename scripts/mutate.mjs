// Puts small faults into the code of a folder and sees whether the folder's own tests find them: `npm run mutate -- core/rounds
// server/outbox`, or every folder below. Each has the share of faults that must be found. The reports are in artifacts/mutation.
import { spawnSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './steps.mjs';

/** At least this share, in percent. */
const FOLDERS = {
  'core/time': 85,
  'core/conditions': 85,
  'core/rounds': 85,
  'core/nudges': 85,
  'core/outcomes': 85,
  'server/outbox': 75,
  'server/rounds': 75,
  'server/rules': 75,
  'server/accounts': 75,
};

const asked = process.argv.slice(2);
const wanted = Object.entries(FOLDERS).filter(([name]) => asked.length === 0 || asked.includes(name));
mkdirSync(join(root, 'artifacts/mutation'), { recursive: true });
const below = [];
for (const [name, least] of wanted) {
  const [project, folder] = name.split('/');
  const config = join(root, 'artifacts/mutation', `${project}-${folder}.json`);
  writeFileSync(
    config,
    JSON.stringify({
      testRunner: 'jest',
      jest: { projectType: 'custom', configFile: `jest.mutate.${project}.config.js`, enableFindRelatedTests: false },
      testRunnerNodeArgs: ['--experimental-vm-modules', '--no-warnings'],
      plugins: ['@stryker-mutator/jest-runner'],
      mutate: [`packages/${project}/src/${folder}/**/*.ts`, '!**/*.test.ts'],
      mutator: { excludedMutations: ['StringLiteral'] },
      coverageAnalysis: 'perTest',
      ignoreStatic: false,
      concurrency: 2,
      timeoutMS: 20000,
      reporters: ['clear-text', 'json'],
      clearTextReporter: { allowColor: false, reportTests: false },
      jsonReporter: { fileName: `artifacts/mutation/${project}-${folder}.report.json` },
      tempDirName: 'artifacts/mutation/sandbox',
      thresholds: { high: 95, low: least, break: least },
      ignorePatterns: ['artifacts', 'docs/screenshots', 'packages/web', '**/dist', '**/dist-types'],
    }),
  );
  const result = spawnSync(join(root, 'node_modules/.bin/stryker'), ['run', config], {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, ZEST_MUTATED: folder, ZEST_RUNS: '0.1' },
  });
  if (result.status !== 0) below.push(`${name} (at least ${least}%)`);
}
console.log(below.length === 0 ? '\nEvery folder is above its share.' : `\nBelow its share: ${below.join(', ')}`);
process.exit(below.length === 0 ? 0 : 1);

// Puts small faults into the code of a folder and sees whether tests find them: `npm run mutate -- core/rounds server/access`, or
// every folder below. Each has the share of faults that must be found. The reports are in artifacts/mutation.
import { spawnSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './steps.mjs';

/** At least `found` percent of the faults of a folder, by the tests in these folders and files. */
const server = (...folders) => ['schema.test.ts', ...folders].map((one) => `packages/server/src/${one}`);
const core = { found: 85, tests: ['packages/core/src'] };
const FOLDERS = {
  // Everything is on time: with all tests each fault in it would be waited for again and again.
  'core/time': { found: 85, tests: ['packages/core/src/time'] },
  'core/conditions': core,
  'core/rounds': core,
  'core/nudges': core,
  'core/outcomes': core,
  'server/mail/outbox': {
    found: 75,
    // Without the one that stops and starts whole servers.
    tests: server(
      'mail/plainMail',
      ...[
        'queue',
        'worker',
        'settling',
        'mailTrouble',
        'inHand',
        'approval',
        'judge',
        'turns',
        'isolation',
        'dispatcher',
      ].map((name) => `mail/outbox/${name}.test.ts`),
    ),
  },
  'server/rounds': { found: 75, tests: server('rounds') },
  'server/rules': { found: 75, tests: server('rules', 'rounds', 'desk/rules') },
  'server/access': { found: 75, tests: server('access') },
};

const asked = process.argv.slice(2);
const wanted = Object.entries(FOLDERS).filter(([name]) => asked.length === 0 || asked.includes(name));
mkdirSync(join(root, 'artifacts/mutation'), { recursive: true });
const below = [];
for (const [name, { found, tests }] of wanted) {
  const [project, ...inside] = name.split('/');
  const folder = inside.join('/');
  const report = name.replaceAll('/', '-');
  const config = join(root, 'artifacts/mutation', `${report}.json`);
  writeFileSync(
    config,
    JSON.stringify({
      testRunner: 'in-process',
      plugins: [join(root, 'scripts/mutation/runner.mjs')],
      testPlaces: tests,
      testTimeoutMS: project === 'server' ? 12_000 : 60_000,
      testRunnerNodeArgs: ['--max-old-space-size=6000'],
      // A module that is evaluated anew for each fault stays in memory until its process ends.
      maxTestRunnerReuse: project === 'server' ? 60 : 100,
      mutate: [`packages/${project}/src/${folder}/**/*.ts`, '!**/*.test.ts'],
      mutator: { excludedMutations: ['StringLiteral'] },
      coverageAnalysis: 'perTest',
      ignoreStatic: false,
      concurrency: 2,
      timeoutMS: 10_000,
      reporters: ['clear-text', 'json', 'progress-append-only'],
      clearTextReporter: { allowColor: false, reportTests: false },
      jsonReporter: { fileName: `artifacts/mutation/${report}.report.json` },
      tempDirName: 'artifacts/mutation/sandbox',
      thresholds: { high: 95, low: found, break: found },
      ignorePatterns: ['artifacts', 'docs/screenshots', 'packages/web', '**/dist', '**/dist-types'],
    }),
  );
  const result = spawnSync(join(root, 'node_modules/.bin/stryker'), ['run', config], {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, ZEST_RUNS: '0.1' },
  });
  if (result.status !== 0) below.push(`${name} (at least ${found}%)`);
}
console.log(below.length === 0 ? '\nEvery folder is above its share.' : `\nBelow its share: ${below.join(', ')}`);
process.exit(below.length === 0 ? 0 : 1);

// Everything: install, browser, PostgreSQL and build; then unit tests beside types, style and the proof of the release; then those tests
// of the server that touch the database's own ways on PostgreSQL (all of them with --all-databases); then the interface in a real browser.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { installPostgres, startPostgres } from './postgres.mjs';
import { testsOnPostgres } from './postgresTests.mjs';
import { apt, buildIfNeeded, install, needNode, root } from './steps.mjs';

const SLOWEST = 10;
const E2E = ['-c', 'jest.e2e.config.js'];
const isOn = (flag) => process.argv.includes(flag);

/** What was run, in order of its end: a name, its seconds, and what a runner of tests counted. */
const phases = [];

needNode();
await phase('Install, browser, PostgreSQL', () => {
  install();
  browser();
  installPostgres();
});
await phase('Build', buildIfNeeded);
mkdirSync(join(root, 'artifacts'), { recursive: true });
await Promise.all([
  phase('Unit tests', () => jest('unit', [])),
  // One after the other: what reads types and style takes a core, and the release mostly waits for the disk.
  phase('Types', () => command('npm', ['run', '--silent', 'typecheck']))
    .then(() => phase('Style and structure', () => command('npm', ['run', '--silent', 'check:style'])))
    .then(() => phase('Release', () => command(process.execPath, ['scripts/release.mjs', '--prove']))),
]);
await phase('Server on PostgreSQL', onPostgres);
const browserRun = await phase('Browser', () => jest('e2e', E2E));
if (isOn('--again') && browserRun.files.length > 0) await phase('Browser, once more', () => onceMore(browserRun));

console.log('\nPhase                          seconds  passed  failed');
for (const { name, seconds, passed, failed } of phases)
  console.log(`${name.padEnd(30)} ${column(seconds.toFixed(0))} ${column(passed)} ${column(failed)}`);
console.log('\nThe slowest files, in seconds');
for (const { name, seconds } of phases
  .flatMap((p) => p.times)
  .toSorted((a, b) => b.seconds - a.seconds)
  .slice(0, SLOWEST))
  console.log(`${column(seconds.toFixed(1))}  ${relative(root, name)}`);
const sum = (of) => phases.reduce((n, p) => n + of(p), 0);
const [passed, failed] = [sum((p) => p.passed), sum((p) => p.failed)];
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed > 0 || passed === 0 ? 1 : 0);

function column(value) {
  return String(value).padStart(7);
}

/** Runs one phase and keeps its time. What ends this process when it fails, such as installing, prints its own sentence. */
async function phase(name, work) {
  const from = performance.now();
  console.error(`${name} …`);
  const counted = (await work()) ?? {};
  const result = { passed: 0, failed: 0, files: [], times: [], ...counted };
  phases.push({ name, seconds: (performance.now() - from) / 1000, ...result });
  if (result.failed > 0) console.error(`\n${name} did not work.`);
  return result;
}

/** A command that is no runner of tests fails or passes as a whole, and counts only where it fails. */
async function command(program, args) {
  return { failed: (await ended(program, args)) === 0 ? 0 : 1 };
}

function ended(program, args, env = {}, stdio = ['ignore', 2, 2]) {
  return new Promise((resolve) => {
    const child = spawn(program, args, { cwd: root, stdio, env: { ...process.env, ...env } });
    child.once('error', (error) => {
      console.error(error.message);
      resolve(1);
    });
    child.once('exit', (code) => resolve(code ?? 1));
  });
}

/** Debian's Chromium without windows of its own shows the interface; it comes by apt when it is missing. */
function browser() {
  if (existsSync(process.env.CHROMIUM ?? '/usr/bin/chromium-headless-shell')) return;
  apt('chromium-headless-shell', 'Chromium');
}

/**
 * With --again, for somebody who looks why a test fails now and then: a browser file that failed is run once more on its own. What
 * fails twice is broken, and what passes only then is named. Without it a test that fails has failed.
 */
async function onceMore(first) {
  const again = await jest('e2e-again', [...E2E, '--maxWorkers=1', '--runTestsByPath', ...first.files]);
  if (again.failed === 0)
    console.log('They passed this time. A test that fails now and then hides something: fix its cause.');
  return { ...again, passed: again.passed - first.passedInFailed, failed: again.failed - first.failed };
}

async function onPostgres() {
  const cluster = startPostgres();
  const files = testsOnPostgres({ every: isOn('--all-databases') });
  try {
    return await jest('server-on-postgres', ['--runTestsByPath', ...files], { ZEST_TEST_POSTGRES: cluster.url() });
  } finally {
    cluster.end();
  }
}

async function jest(name, args, env = {}) {
  const file = join(root, 'artifacts', `jest-${name}.json`);
  rmSync(file, { force: true });
  await ended(
    join(root, 'node_modules/.bin/jest'),
    [...args, '--json', `--outputFile=${file}`],
    { NODE_OPTIONS: '--experimental-vm-modules --no-warnings', ...env },
    ['ignore', 'ignore', 'inherit'],
  );
  if (!existsSync(file)) return { failed: 1 };
  const result = JSON.parse(readFileSync(file, 'utf8'));
  // A file that does not even load counts as a failure of its own.
  const broken = result.testResults.filter((r) => r.status === 'failed');
  return {
    passed: result.numPassedTests,
    failed: result.numFailedTests + result.numRuntimeErrorTestSuites,
    files: broken.map((r) => r.name),
    passedInFailed: broken.flatMap((r) => r.assertionResults).filter((a) => a.status === 'passed').length,
    times: result.testResults.map((r) => ({ name: r.name, seconds: (r.endTime - r.startTime) / 1000 })),
  };
}

// Everything: install, browser, PostgreSQL, build, checks, unit tests, those of the server on PostgreSQL as well, then the interface in
// a real browser.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { installPostgres, startPostgres } from './postgres.mjs';
import { apt, buildIfNeeded, install, needNode, root, together } from './steps.mjs';

needNode();
install();
browser();
installPostgres();
buildIfNeeded();
// Both read what was built: the types of the server are those of its compiled form.
await together([
  ['npm', ['run', '--silent', 'typecheck'], 'Checking types'],
  ['npm', ['run', '--silent', 'check:style'], 'Checking style and structure'],
]);

mkdirSync(join(root, 'artifacts'), { recursive: true });
const E2E = ['-c', 'jest.e2e.config.js'];
const again = process.argv.includes('--again');
const unit = jest('unit', []);
const server = onPostgres();
const e2e = jest('e2e', E2E);
const counts = [unit, server, again ? onceMore(e2e) : e2e];
const passed = counts.reduce((n, c) => n + c.passed, 0);
const failed = counts.reduce((n, c) => n + c.failed, 0);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed > 0 || passed === 0 ? 1 : 0);

/** Debian's Chromium drives the interface; it comes by apt when it is missing. */
function browser() {
  if (existsSync(process.env.CHROMIUM ?? '/usr/bin/chromium')) return;
  apt('chromium', 'Chromium');
}

/**
 * With --again, for somebody who looks why a test fails now and then: a browser file that failed is run once more by itself. What
 * fails twice is broken, and what passes only then is named. Without it a test that fails has failed.
 */
function onceMore(first) {
  if (first.failed === 0 || first.files.length === 0) return first;
  console.log(`\nOnce more, by themselves: ${first.files.map((f) => relative(root, f)).join(', ')}`);
  const again = jest('e2e-again', [...E2E, '--runInBand', '--runTestsByPath', ...first.files]);
  if (again.failed === 0)
    console.log('They passed this time. A test that fails now and then hides something: mend it.');
  return { passed: first.passed - first.passedInFailed + again.passed, failed: again.failed, files: again.files };
}

/** Every test of the server that asks a database once more, on a cluster that is thrown away. */
function onPostgres() {
  const cluster = startPostgres();
  const folder = join(root, 'packages/server/src');
  const files = readdirSync(folder, { recursive: true })
    .filter((name) => name.endsWith('.test.ts'))
    .map((name) => join(folder, name))
    .filter((file) => /openStage|openLaunching|testing\/database/.test(readFileSync(file, 'utf8')));
  const args = ['--selectProjects', 'server', '--runTestsByPath', ...files];
  try {
    return jest('server-on-postgres', args, { ZEST_TEST_POSTGRES: cluster.url() });
  } finally {
    cluster.end();
  }
}

function jest(name, args, env = {}) {
  const file = join(root, 'artifacts', `jest-${name}.json`);
  rmSync(file, { force: true });
  spawnSync(join(root, 'node_modules/.bin/jest'), [...args, '--json', `--outputFile=${file}`], {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, NODE_OPTIONS: '--experimental-vm-modules --no-warnings', ...env },
  });
  if (!existsSync(file)) return { passed: 0, failed: 1, files: [], passedInFailed: 0 };
  const result = JSON.parse(readFileSync(file, 'utf8'));
  // A file that does not even load counts as a failure of its own.
  const broken = result.testResults.filter((r) => r.status === 'failed');
  return {
    passed: result.numPassedTests,
    failed: result.numFailedTests + result.numRuntimeErrorTestSuites,
    files: broken.map((r) => r.name),
    passedInFailed: broken.flatMap((r) => r.assertionResults).filter((a) => a.status === 'passed').length,
  };
}

// The quick path: `npm run t` runs the unit tests of what changed since the last commit, `npm run t -- PATH…` those of the files or
// folders named; on SQLite, with the types of the packages beside them. `--all` adds the files of other packages that depend on a change.
import { spawnSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { join, relative, resolve, sep } from 'node:path';
import { buildIfNeeded, install, needNode, root, together } from './steps.mjs';

needNode();
const args = process.argv.slice(2);
const runsAll = args.includes('--all');
const named = args.filter((arg) => !arg.startsWith('--'));
for (const path of named) {
  if (existsSync(resolve(path))) continue;
  console.error(`There is no ${path}.`);
  process.exit(1);
}
install();

const lines = (text) => text.split('\n').filter(Boolean);
const git = (...words) => lines(spawnSync('git', words, { cwd: root, encoding: 'utf8' }).stdout);
const packageOf = (file) => /^packages\/(\w+)\//.exec(relative(root, file).split(sep).join('/'))?.[1];
const isTest = (file) => /\.test\.tsx?$/.test(file);

/** Test files that a run of Jest with these arguments would take. */
function listed(...words) {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['node_modules/.bin/jest', '--listTests', ...words], {
    cwd: root,
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(`The test files could not be listed: ${stderr}`);
  return lines(stdout).filter((line) => line.startsWith(root));
}

const changed =
  named.length > 0
    ? named.map((path) => resolve(path))
    : [...git('diff', '--name-only', '--diff-filter=d', 'HEAD'), ...git('ls-files', '-o', '--exclude-standard')]
        .filter((file) => /^packages\/.*\.tsx?$/.test(file))
        .map((file) => join(root, file));

const files = changed.filter((path) => statSync(path).isFile());
const folders = changed.filter((path) => statSync(path).isDirectory());
const depending = files.length > 0 ? listed('--findRelatedTests', ...files) : [];
const touched = new Set(changed.map(packageOf));
const near = new Set([
  ...files.filter(isTest),
  ...folders.flatMap((folder) => listed().filter((test) => test.startsWith(folder + sep))),
  ...depending.filter((test) => touched.has(packageOf(test))),
]);
const far = depending.filter((test) => !near.has(test));
if (far.length > 0)
  console.log(
    `${far.length} test ${far.length === 1 ? 'file' : 'files'} of other packages ${far.length === 1 ? 'depends' : 'depend'} on this${runsAll ? '.' : '; --all runs them too.'}`,
  );
const tests = runsAll ? [...near, ...far] : [...near];
const packages = [...new Set([...touched, ...tests.map(packageOf)])].filter(Boolean);
if (packages.length === 0) {
  console.log('Nothing in packages/ has changed since the last commit, so there is nothing to run.');
  process.exit(0);
}
// Tests of processes run what is built.
if (tests.some((test) => packageOf(test) === 'server')) buildIfNeeded();
const jest = ['node_modules/.bin/jest', '--runTestsByPath', ...tests];
const env = { NODE_OPTIONS: '--experimental-vm-modules --no-warnings' };
await together([
  [process.execPath, ['node_modules/.bin/tsc', '-b', ...packages.map((name) => `packages/${name}`)], 'Checking types'],
  ...(tests.length > 0 ? [[process.execPath, jest, 'Running tests', env]] : []),
]);
if (tests.length === 0) console.log('No unit test depends on this. The types are sound.');

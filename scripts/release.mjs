// Makes a folder to copy to a server, without anything that only builds or tests. `--prove [FOLDER]` then installs and runs a copy of
// it outside this checkout, as an administrator would; the copy goes to a temporary folder unless one is named.
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { prove } from './prove.mjs';
import { buildIfNeeded, install, needNode, root } from './steps.mjs';

const PROVE = '--prove';
/** Not what checking types leaves beside what was built. */
const isRun = (path) => !/\.d\.ts$|\.tsbuildinfo/.test(path);

needNode();
const args = process.argv.slice(2);
const where = args[args.indexOf(PROVE) + 1];
if (args.includes(PROVE) && where !== undefined && existsSync(where) && readdirSync(where).length > 0) {
  console.error(`${where} is not empty. Name a folder that is empty or does not exist.`);
  process.exit(2);
}
install('start');
buildIfNeeded();

const own = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
const folder = join(root, 'artifacts', `zest-bell-${own.version}`);
rmSync(folder, { recursive: true, force: true });
mkdirSync(folder, { recursive: true });
for (const name of ['package-lock.json', 'README.md', 'CHANGELOG.md', 'docs/running.md', 'deploy']) {
  cpSync(join(root, name), join(folder, name), { recursive: true });
}
// The lock names the workspace of tests and checks: its manifest goes along, and nothing of it is installed.
cpSync(join(root, 'packages/tools/package.json'), join(folder, 'packages/tools/package.json'), { recursive: true });
for (const name of ['core', 'standins', 'server', 'web']) {
  for (const part of ['package.json', 'dist']) {
    cpSync(join(root, 'packages', name, part), join(folder, 'packages', name, part), {
      recursive: true,
      filter: isRun,
    });
  }
}
const scripts = {
  // Nothing that is installed runs a program of its own. What npm has in its cache is not fetched again.
  setup:
    'npm ci --workspace @zest-bell/server --omit=dev --ignore-scripts --prefer-offline --no-audit --no-fund --loglevel=error',
  start: 'NODE_ENV=production exec node --max-semi-space-size=32 packages/server/dist/main.js',
  zest: 'exec node packages/server/dist/cli/zest.js',
};
writeFileSync(join(folder, 'package.json'), `${JSON.stringify({ ...own, scripts }, null, 2)}\n`);
console.log(`A release is in ${folder}. On the server: npm run setup && npm start`);

if (args.includes(PROVE)) {
  const copy = where === undefined ? mkdtempSync(join(tmpdir(), 'zest-bell-release-')) : resolve(where);
  const isNew = where === undefined || !existsSync(copy);
  const tidy = () => {
    if (isNew) rmSync(copy, { recursive: true, force: true });
    else for (const name of readdirSync(copy)) rmSync(join(copy, name), { recursive: true, force: true });
  };
  process.once('exit', tidy);
  for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => process.exit(1));
  try {
    mkdirSync(copy, { recursive: true });
    cpSync(folder, copy, { recursive: true });
    await prove(copy);
    console.log('The release was installed, started, set up, sent a nudge, and stopped.');
  } catch (error) {
    console.error(`\n${error.message}`);
    process.exitCode = 1;
  }
}

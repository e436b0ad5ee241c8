// What the commands share: installing and building only when there is need.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm';

/** What setting up says is no part of a command's own answer on standard output. */
const TO_STDERR = ['inherit', 2, 2];

/** Runs a command and ends this one with a sentence when it fails. */
export function run(command, args, why, env = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: TO_STDERR, env: { ...process.env, ...env } });
  if (result.error || result.status !== 0) {
    console.error(`\n${why} did not work${result.error ? ` (${result.error.message})` : ''}.`);
    process.exit(result.status || 1);
  }
}

/** Runs several commands at once, each `[command, args, why, env]`; one that fails ends this one with a sentence, after all have ended. */
export async function together(commands) {
  const codes = await Promise.all(
    commands.map(
      ([command, args, why, env = {}]) =>
        new Promise((resolve) => {
          const child = spawn(command, args, { cwd: root, stdio: TO_STDERR, env: { ...process.env, ...env } });
          child.once('error', (error) => resolve(`${why} (${error.message})`));
          child.once('exit', (code) => resolve(code === 0 ? null : why));
        }),
    ),
  );
  const failed = codes.find((why) => why !== null);
  if (failed === undefined) return;
  console.error(`\n${failed} did not work.`);
  process.exit(1);
}

export function needNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > 20 || (major === 20 && minor >= 19)) return;
  console.error(`Zest Bell needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
  process.exit(1);
}

const changedAt = (path) => (existsSync(path) ? statSync(path).mtimeMs : 0);

/** What can be installed: all, or only what runs and is built, without tests, checks and benches. */
const SETS = {
  all: [],
  start: ['core', 'standins', 'server', 'web'].flatMap((name) => ['--workspace', `@zest-bell/${name}`]),
};
/** Names the set that was installed, and the lock that it came from. */
const INSTALLED = join(root, 'node_modules/.zest-bell.json');

/** Installs a set, where neither it nor all is there from this lock. */
export function install(set = 'all') {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(INSTALLED)) {
    const has = JSON.parse(readFileSync(INSTALLED, 'utf8'));
    if (has.lock === lock && (has.set === set || has.set === 'all')) return;
  }
  console.error('Installing packages …');
  rmSync(INSTALLED, { force: true });
  run(
    npm,
    ['ci', ...SETS[set], '--prefer-offline', '--no-audit', '--no-fund', '--loglevel=error'],
    'Installing the packages',
  );
  writeFileSync(INSTALLED, JSON.stringify({ set, lock }));
}

/** Brings a Debian package. */
export function apt(name, called) {
  console.error(`Installing ${called} …`);
  const [command, ...first] = process.getuid?.() === 0 ? ['apt-get'] : ['sudo', 'apt-get'];
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  run(command, [...first, 'update', '-qq'], 'Reading the package lists', env);
  run(command, [...first, 'install', '-y', '-qq', '--no-install-recommends', name], `Installing ${called}`, env);
}

/** No part of what is built: what was built before, and tests. */
const isLeftOut = (name) =>
  ['node_modules', 'dist', 'dist-types', 'testing'].includes(name) || /\.test\.tsx?$/.test(name);

/** When something in a file or folder changed last; a file that was removed counts by its folder. */
function newest(path) {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  const all = readdirSync(path);
  const entries = all.filter((name) => !isLeftOut(name));
  // A folder in which something is built or tested changes by that.
  const own = entries.length === all.length ? stat.mtimeMs : 0;
  return Math.max(own, ...entries.map((name) => newest(join(path, name))));
}

/** What says of a part that it was built. */
const BUILT = { server: 'packages/server/dist/.built', web: 'packages/web/dist/index.html' };

/** The parts of which a source is newer than what was built. */
export function unbuiltParts() {
  const sources = ['packages', 'package-lock.json', 'tsconfig.base.json', 'scripts/build.mjs'];
  const changed = Math.max(...sources.map((path) => newest(join(root, path))));
  return Object.keys(BUILT).filter((part) => changedAt(join(root, BUILT[part])) <= changed);
}

/** Builds when a source is newer than what was built. */
export function buildIfNeeded() {
  if (unbuiltParts().length === 0) return;
  console.error('Building …');
  run(process.execPath, ['scripts/build.mjs'], 'Building');
}

// What the commands share: installing and building only when there is need.
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm';

/** Runs a command and ends this one with a sentence when it fails. */
export function run(command, args, why, env = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  if (result.error || result.status !== 0) {
    console.error(`\n${why} did not work${result.error ? ` (${result.error.message})` : ''}.`);
    process.exit(result.status || 1);
  }
}

export function needNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > 20 || (major === 20 && minor >= 19)) return;
  console.error(`Zest Bell needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
  process.exit(1);
}

const changedAt = (path) => (existsSync(path) ? statSync(path).mtimeMs : 0);

export function install() {
  const lock = join(root, 'package-lock.json');
  if (changedAt(join(root, 'node_modules/.package-lock.json')) >= changedAt(lock)) return;
  console.log('Installing packages …');
  run(npm, ['ci', '--no-audit', '--no-fund', '--loglevel=error'], 'Installing the packages');
}

function newest(folder) {
  let latest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', 'dist-types'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    latest = Math.max(latest, entry.isDirectory() ? newest(path) : changedAt(path));
  }
  return latest;
}

/** Builds when a source is newer than what was built. */
export function buildIfNeeded() {
  const built = Math.min(
    changedAt(join(root, 'packages/server/dist/.built')),
    changedAt(join(root, 'packages/web/dist/index.html')),
  );
  if (built > newest(join(root, 'packages'))) return;
  console.log('Building …');
  run(process.execPath, ['scripts/build.mjs'], 'Building');
}

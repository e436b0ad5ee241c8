// Lets Node load single TypeScript files, as the database's migrations are. Bundles pass as they are.
import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { transform } from 'esbuild';

export async function load(url, context, next) {
  if (!url.endsWith('.ts')) return next(url, context);
  const { code } = await transform(await readFile(fileURLToPath(url), 'utf8'), { loader: 'ts', format: 'esm' });
  return { format: 'module', source: code, shortCircuit: true };
}

/** Threads of this server. */
import { fileURLToPath } from 'node:url';
import { Worker, type ResourceLimits } from 'node:worker_threads';

/**
 * Starts the module `name` beside the one at `here` (its `import.meta.url`) as a thread. From the sources, as in tests, it is bundled
 * first, as a thread knows nothing of how its server reads TypeScript.
 */
export function startThread(here: string, name: string, resourceLimits: ResourceLimits): Worker {
  if (!here.endsWith('.ts')) return new Worker(new URL(`./${name}.js`, here), { resourceLimits });
  const output = { bundle: true, write: false, platform: 'node', format: 'cjs' };
  const entry = new URL(`./${name}.ts`, here);
  const options = { ...output, conditions: ['zest-source'], external: UNBUNDLED };
  const define = { 'import.meta.url': JSON.stringify(entry.href) };
  const order = JSON.stringify({ ...options, define, entryPoints: [fileURLToPath(entry)] });
  const read = `(0, eval)(require('esbuild').buildSync(${order}).outputFiles[0].text)`;
  return new Worker(read, { eval: true, execArgv: [], resourceLimits });
}

/** What loads files of its own while it runs: compiled ones, and drivers of databases. */
const UNBUNDLED = ['libsql', 'pg', '@mikro-orm/*', '@node-rs/*'];

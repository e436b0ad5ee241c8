/** The scripts that a page asks for before it is known who opens it and where. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';

/** What they may be together, in bytes. */
export const FIRST_SCRIPTS = 180_000;

/** What they are together, in bytes, each gzipped as well as it can be. */
export function firstScripts(): number {
  const dist = new URL('../packages/web/dist/', import.meta.url).pathname;
  const named = readFileSync(join(dist, 'index.html'), 'utf8').match(/assets\/[^"]+\.js/g) ?? [];
  const sizes = named.map((name) => gzipSync(readFileSync(join(dist, name)), { level: 9 }).length);
  return sizes.reduce((sum, bytes) => sum + bytes, 0);
}

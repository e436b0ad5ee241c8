import { readFileSync } from 'node:fs';
import { expect, test } from '@jest/globals';
import { ERRORS } from './errors.ts';

test('docs/errors.md lists every error with its status, family and sentence, and no other', () => {
  const page = readFileSync(new URL('../../../../../docs/errors.md', import.meta.url), 'utf8');
  const rows = [...page.matchAll(/^\| `(\w+)` +\| (\d+) +\| (\w+) +\| (.+?) +\|$/gm)].map((m) => m.slice(1));
  expect(rows).toEqual(Object.entries(ERRORS).map(([code, e]) => [code, String(e.status), e.family, e.title]));
});

// The numbered rules of the engine, of how files are read, of carrying over and of signs: every one that a test cites must exist, and every
// one of what is built must be cited by a test.
import { readFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';

const range = (letter, last) => Array.from({ length: last }, (_, i) => `${letter}${i + 1}`);
const all = [
  ...range('T', 5),
  ...range('H', 8),
  ...range('M', 5),
  ...range('C', 6),
  ...range('R', 13),
  ...range('O', 5),
  ...range('F', 25),
  ...range('K', 8),
  ...range('S', 8),
];

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', '*.test.ts', '*.test.tsx', 'e2e/*.ts'], {
  encoding: 'utf8',
})
  .split('\n')
  .filter(Boolean);
const cited = new Set();
let problems = 0;
for (const file of files) {
  for (const [, list] of readFileSync(file, 'utf8').matchAll(/\[((?:[THMCROFKS]\d+)(?:, ?[THMCROFKS]\d+)*)\]/g)) {
    for (const rule of list.split(/, ?/)) {
      cited.add(rule);
      if (all.includes(rule)) continue;
      problems++;
      console.error(`${file} cites ${rule}, which does not exist`);
    }
  }
}
for (const rule of all) {
  if (cited.has(rule)) continue;
  problems++;
  console.error(`No test cites ${rule}`);
}
process.exit(problems > 0 ? 1 : 0);

// No two types have the same name, so a search for a type finds one declaration.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

const DECLARATION = /^\s*(?:export )?(?:abstract )?(?:interface|type|class) (\w+)\b(?!,|\s+from)/gm;
const SOURCES = ['packages/*.ts', 'packages/*.tsx', 'e2e/*.ts', 'bench/*.ts'];

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', ...SOURCES], { encoding: 'utf8' })
  .split('\n')
  .filter((file) => file && !file.includes('/migrations/'));
const places = new Map();
for (const file of files) {
  for (const [, name] of readFileSync(file, 'utf8').matchAll(DECLARATION))
    places.set(name, [...(places.get(name) ?? []), file]);
}
const shared = [...places].filter(([, at]) => at.length > 1);
for (const [name, at] of shared) console.log(`${name} is declared ${at.length} times: ${at.join(', ')}`);
console.log(`${places.size} names of types, ${shared.length} of them used twice.`);
process.exitCode = shared.length > 0 ? 1 : 0;

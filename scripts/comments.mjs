// Counts words in comments that, in numbers, make them hard to read for somebody new: inverted clauses and old-fashioned pronouns. Each
// word is fine once, so a few are allowed. `node scripts/comments.mjs --list` shows where they are.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import ts from 'typescript';

const WORDS =
  /\b(whoever|of whom|whose|stands|is none|as it stands|of that|meanwhile|with it|by itself|what is told|what there is one of|yet be|goes by)\b/gi;
/** How many there may be, over all files. Lower it when there are fewer. */
const MOST = 17;
const SOURCES = ['packages/*.ts', 'packages/*.tsx', 'e2e/*.ts', 'bench/*.ts', 'scripts/*.mjs'];

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', ...SOURCES], { encoding: 'utf8' });
const found = files.split('\n').filter(Boolean).flatMap(findingsIn);

function findingsIn(file) {
  const text = readFileSync(file, 'utf8');
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true);
  const comments = new Map();
  const visit = (node) => {
    const before = ts.getLeadingCommentRanges(text, node.getFullStart()) ?? [];
    const after = ts.getTrailingCommentRanges(text, node.getEnd()) ?? [];
    for (const { pos, end } of [...before, ...after]) comments.set(pos, end);
    ts.forEachChild(node, visit);
  };
  visit(source);
  return [...comments].flatMap(([pos, end]) =>
    [...text.slice(pos, end).matchAll(WORDS)].map(({ 0: word, index }) => {
      const line = source.getLineAndCharacterOfPosition(pos + index).line + 1;
      return `${file}:${line}: ${word}`;
    }),
  );
}

const isTooMany = found.length > MOST;
if (process.argv.includes('--list') || isTooMany) console.log(found.join('\n'));
console.log(`${found.length} of at most ${MOST} words in comments that are hard to read.`);
process.exitCode = isTooMany ? 1 : 0;

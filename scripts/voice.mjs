// What a program can see of how the interface speaks: British spellings, "e-mail", raw template code, and words of ours that were
// replaced by plainer ones. It reads the strings and the texts between tags, not names, imports or comments.
// `node scripts/voice.mjs --list [file]` writes every string that people may read into one file, by place.
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import ts from 'typescript';
import { root } from './steps.mjs';

/** Where people read what we write. Demo names are nobody's prose, and files of tests speak to us. */
const FOLDERS = [
  'packages/web/src',
  'packages/core/src',
  'packages/server/src',
  'packages/standins/src/demo',
  'scripts',
];
const PAGES = ['README.md', 'CHANGELOG.md', 'docs/errors.md'];
/** What is read by programs or by those who write the code. */
const SKIPPED = /\.test\.|\.d\.ts$|\/migrations\/|\/testing\/|scripts\/voice\.mjs$/;

const RULES = [
  [/\be-mails?\b/i, 'write “email”'],
  [
    /\b(enrol(ment|s)?|cancell(ed|ing)|practis(e[sd]?|ing)|grey|programmes?|colou?rs?(?<=our|ours)|favourites?|neighbours?|behaviours?|honours?|centres?|catalogues?|organis(e[sd]?|ing|ation)|recognis(e[sd]?|ing)|summaris(e[sd]?|ing)|analys(e[sd]|ing)|judgements?|licence|learnt|whilst|labell(ed|ing)|travell(ed|ing)|modell(ed|ing))\b/i,
    'American spelling',
  ],
  [/(?<!\/)\b(withheld|refused by|withdrawn)\b/i, 'say “held back” or “canceled”'],
  [/\b(met it|meets it|heard|hears|would hear)\b/i, 'say “matches”, “is nudged”'],
  [
    /\bnudged lately\b|\bmay or may not have arrived\b|\bby an act of their own\b/i,
    'see the words for reasons and returns',
  ],
  [/\b(was|were) held\b(?! back)/i, 'a round “ran”; a nudge “is waiting for you”'],
  [/\b(the|these|its|your) words\b|\bsays these words\b/i, 'say “text”'],
  [/\bgoes with it\b|\bparcels?\b/i, 'say “attachments”'],
  [
    /\bof that name\b|\bas (they|it) stands?\b|\bhas it that\b|\btake it back\b|\bin some days\b/i,
    'a riddle: say it plainly',
  ],
];
/** Words of the code that have plainer ones on screen, in mail, in errors and in exports. */
const SCREEN_WORDS = [
  [/\brounds?\b(?! (trip|up|down|of))/i, 'say “check”'],
  [/\bspells?\b/i, 'say “each time”, “this time”, or “matches since”'],
  [/\b(ring|rings|rang|ringing)\b(?!-)/i, 'say “check” or “ran”'],
  [/\bLookout\b/, 'say “Students”'],
  [/\bHindsight\b|\b[Nn]eedless(ly)?\b|\b[Rr]ightly\b/, 'say “Who it found” and the names of its four counts'],
  [/\bmail domains\b/i, 'say “addresses that count as inside your institution”'],
  [/\bby lot\b|\bone (row|line) an? \w+/i, 'say “at random”, “one row per …”'],
];
/**
 * Where they are allowed: in published documents (summaries of requests, metrics, the command line), in earlier entries of the change log, in
 * scripts for those who write the code, and in starters' texts to students, who do a round of practice.
 */
const OTHER_READERS =
  /^(CHANGELOG|scripts\/)|core\/src\/(contract|starters\/words)|figures\/figures\.ts$|server\/src\/cli\/zest\.ts$/;
/** One word in small letters is mostly a key of ours; how it is spelled is seen all the same. */
const isKey = (text) => /^[a-z/-]+$/.test(text.replaceAll('…', '').trim());
const SPELLING = RULES.slice(0, 2);
/** Template code in what instructors read. Texts of wordings are written in it, and shown as chips by these. */
const WRITES_TEXTS =
  /packages\/web\/src\/(parts|places)\/wording\/(draft|liquidDoc|WordingPage|WordsEditor|ParcelPart)\./;
const RAW = /\{\{|\{%/;

const files = FOLDERS.flatMap(walk).filter((path) => /\.(tsx?|mjs)$/.test(path) && !SKIPPED.test(path));
const found = [];
for (const path of files) {
  const text = readFileSync(path, 'utf8');
  const kind = path.endsWith('x') ? ts.ScriptKind.TSX : ts.ScriptKind.TS;
  for (const said of stringsOf(ts.createSourceFile(path, text, ts.ScriptTarget.Latest, true, kind))) {
    found.push({ path: relative(root, path), ...said });
  }
}
for (const page of PAGES) {
  readFileSync(join(root, page), 'utf8')
    .split('\n')
    .forEach((text, i) => found.push({ path: page, line: i + 1, text: text.replace(/`[^`]*`|\]\([^)]*\)/g, '') }));
}

if (process.argv[2] === '--list') {
  writeStrings(process.argv[3] ?? 'artifacts/strings.md');
  process.exit(0);
}
const problems = found.flatMap(({ path, line, text, isCounted }) =>
  [
    ...(isKey(text) ? SPELLING : RULES),
    ...((isKey(text) && !isCounted) || OTHER_READERS.test(path) ? [] : SCREEN_WORDS),
    ...(path.includes('/web/') && !WRITES_TEXTS.test(path) ? [[RAW, 'raw template code']] : []),
  ].flatMap(([pattern, advice]) => {
    const hit = pattern.exec(text);
    return hit ? [`${path}:${line}: “${hit[0]}” in “${text.trim().slice(0, 100)}”: ${advice}`] : [];
  }),
);
for (const problem of problems) console.error(problem);
process.exit(problems.length > 0 ? 1 : 0);

/** Sentences and labels in one file, by the place where they are read, each place with its count. */
function writeStrings(file) {
  const isRead = ({ path, text }) => !path.startsWith('scripts/') && !path.endsWith('.md') && /^[^a-z/]|\s/.test(text);
  const placeOf = (path) =>
    path.split('/src/')[0].split('/').at(-1) + '/' + path.split('/src/')[1].split('/').slice(0, 2).join('/');
  const places = new Map();
  for (const f of found.filter(isRead)) places.set(placeOf(f.path), [...(places.get(placeOf(f.path)) ?? []), f]);
  const lines = [...places].flatMap(([place, all]) => [
    `## ${place.replace(/\.tsx?$/, '')} (${all.length})`,
    '',
    ...all.map((f) => `- ${f.text} (${f.path.split('/').at(-1)}:${f.line})`),
    '',
  ]);
  mkdirSync(dirname(join(root, file)), { recursive: true });
  writeFileSync(join(root, file), lines.join('\n'));
  console.log(`${found.filter(isRead).length} strings in ${places.size} places: ${file}`);
}

function walk(folder) {
  return readdirSync(join(root, folder), { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath ?? entry.path, entry.name));
}

/** Strings that people may read. */
function stringsOf(source) {
  const out = [];
  const add = (node, text) => {
    const said = text.replace(/\s+/g, ' ').trim();
    if (!/[a-z]{3}/i.test(said) || isStyle(node)) return;
    // What is counted is read, however short it is.
    const isCounted = ts.isCallExpression(node.parent) && node.parent.expression.getText() === 'plural';
    out.push({ line: source.getLineAndCharacterOfPosition(node.getStart()).line + 1, text: said, isCounted });
  };
  const visit = (node) => {
    if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) return;
    if (ts.isJsxText(node) || ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node))
      add(node, node.text);
    if (ts.isTemplateExpression(node)) {
      add(node, [node.head.text, ...node.templateSpans.map((s) => `…${s.literal.text}`)].join(''));
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return out;
}

/** Class names, paths and the like. */
function isStyle(node) {
  let at = node.parent;
  for (let i = 0; at && i < 4; i++, at = at.parent) {
    if (ts.isJsxAttribute(at))
      return /^(className|d|viewBox|path|to|data-testid|contentClassName|overlayClassName|style|href|src|strokeWidth|transform|points|type|key|id|tone|look)$/.test(
        at.name.getText(),
      );
    if (ts.isLiteralTypeNode(at)) return true;
  }
  return false;
}

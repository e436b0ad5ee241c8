/** Names in a sentence: how they are cut into words, and when they need quotation marks so that they are read as the same name. */
import { GRAMMAR_WORDS } from './grammarWords.ts';

export type TokenKind = 'word' | 'number' | 'quoted' | 'time' | 'date' | 'address' | 'sign';

/** A piece of a typed sentence. */
export interface Token {
  readonly kind: TokenKind;
  /** In UTF-16 units; `to` is excluded. Of a contraction both words have the whole span. */
  readonly from: number;
  readonly to: number;
  /** A word without case, accents and apostrophes; the digits of a number; what is within quotation marks; a sign as it is. */
  readonly text: string;
}

const QUOTED = /“((?:[^”]|””)*)”|"((?:[^"]|"")*)"/y;
const ADDRESS = /[\w.+%-]+@[\w-]+(?:\.[\w-]+)+/y;
const DATE =
  /\d{4}-\d{1,2}-\d{1,2}(?![\d-])|\d{1,2}[/.]\d{1,2}[/.](?:\d{4}|\d{2})(?![\d/.])|\d{1,2}\/\d{1,2}(?![\d/])/y;
const TIME = /\d{1,2}(?::\d{2})?\s?[ap](?:m\b|\.m\.)|\d{1,2}:\d{2}(?!\d)/iy;
const NUMBER = /\d{1,3}(?:,\d{3})+(?:\.\d+)?(?![\d])|\d*\.?\d+/y;
const WORD = /[\p{L}\p{M}][\p{L}\p{M}\d_]*(?:['’][\p{L}\p{M}]+)*/uy;
const CONTRACTED = /^(.+)n['’]t$/;

/** A word without case, accents and apostrophes. */
const folded = (word: string): string =>
  word
    .normalize('NFD')
    .replace(/[\p{M}'’]/gu, '')
    .toLowerCase();

function match(pattern: RegExp, text: string, at: number): RegExpExecArray | null {
  pattern.lastIndex = at;
  return pattern.exec(text);
}

/** A number that is glued to a word before it belongs to that word, and a sign of its own after a digit is a range. */
const isMinus = (text: string, at: number): boolean =>
  /[-−]/.test(text[at]!) && /[\d.]/.test(text[at + 1] ?? '') && !/[\p{L}\d%]/u.test(text[at - 1] ?? ' ');

const isHyphen = (text: string, at: number): boolean =>
  /[-‐‑]/.test(text[at]!) && /\p{L}/u.test(text[at - 1] ?? '') && /\p{L}/u.test(text[at + 1] ?? '');

/** Cuts a text into words, numbers, names in quotation marks, and signs. Blanks are left out. */
export function tokensOf(text: string): readonly Token[] {
  const tokens: Token[] = [];
  for (let at = 0; at < text.length;) {
    if (/\s/.test(text[at]!) || isHyphen(text, at)) {
      at++;
      continue;
    }
    const add = (kind: TokenKind, said: string, to: number) => {
      tokens.push({ kind, from: at, to, text: said });
      at = to;
    };
    const quoted = match(QUOTED, text, at);
    if (quoted) {
      const said = quoted[1] === undefined ? quoted[2]!.replaceAll('""', '"') : quoted[1].replaceAll('””', '”');
      add('quoted', said, at + quoted[0].length);
      continue;
    }
    const other = otherToken(text, at);
    if (other !== null) {
      add(other.kind, other.text, at + other.length);
      continue;
    }
    const word = match(WORD, text, at);
    if (!word) {
      add('sign', text[at]!, at + 1);
      continue;
    }
    const to = at + word[0].length;
    const [, verb] = CONTRACTED.exec(word[0]) ?? [];
    if (verb === undefined) add('word', folded(word[0]), to);
    else {
      tokens.push({ kind: 'word', from: at, to, text: CONTRACTIONS[folded(verb)] ?? folded(verb) });
      add('word', 'not', to);
    }
  }
  return tokens;
}

/** Where leaving out “n’t” leaves no word. */
const CONTRACTIONS: Readonly<Record<string, string>> = { ca: 'can', wo: 'will' };

function otherToken(text: string, at: number): { kind: TokenKind; text: string; length: number } | null {
  const minus = isMinus(text, at) ? 1 : 0;
  if (!minus && !/[\p{L}\d.]/u.test(text[at]!)) return null;
  for (const [kind, pattern] of OTHERS) {
    if (minus && kind !== 'number') continue;
    const found = match(pattern, text, at + minus);
    if (!found) continue;
    const said = found[0].replaceAll(kind === 'number' ? ',' : /\s/g, '');
    return { kind, text: minus ? `-${said}` : said.toLowerCase(), length: found[0].length + minus };
  }
  return null;
}

const OTHERS: readonly (readonly [TokenKind, RegExp])[] = [
  ['address', ADDRESS],
  ['date', DATE],
  ['time', TIME],
  ['number', NUMBER],
];

/** Articles are left out of names and of phrases. */
export const ARTICLES: ReadonlySet<string> = new Set(['a', 'an', 'the']);

/** What of a name is compared with what is typed: its words and numbers. */
export const wordsOfName = (name: string): readonly string[] => {
  const said = tokensOf(name).filter(({ kind }) => kind !== 'sign');
  const words = said.map((token) => (token.kind === 'quoted' ? folded(token.text) : token.text));
  const bare = words.filter((word) => !ARTICLES.has(word));
  return bare.length > 0 ? bare : words;
};

/** The kinds of names that a sentence about a course can hold. */
export const SPOKEN_KINDS = ['item', 'group', 'section', 'person', 'mark', 'column', 'criterion', 'contact'] as const;
export type SpokenKind = (typeof SPOKEN_KINDS)[number];

/** A name by which a rule names something, and the title that people know. */
export type IdAndTitle = readonly [id: string, title: string];

/** As much of a course as has names. */
export interface Named {
  readonly items: readonly { readonly id: string; readonly title: string; readonly group: string | null }[];
  readonly people: readonly {
    readonly id: string;
    readonly firstName: string;
    readonly lastName: string;
    readonly section: string | null;
    readonly fields: Readonly<Record<string, unknown>>;
    readonly contacts: readonly { readonly kind: string }[];
  }[];
  readonly marks: Readonly<Record<string, number>>;
}

const listed = new WeakMap<Named, Readonly<Record<SpokenKind, readonly IdAndTitle[]>>>();

/** All names of a course. Criteria of rubrics are no part of it. */
export function namesIn(course: Named): Readonly<Record<SpokenKind, readonly IdAndTitle[]>> {
  const known = listed.get(course);
  if (known) return known;
  const own = (texts: readonly (string | null)[]) =>
    [...new Set(texts)].flatMap((text): IdAndTitle[] => (text === null ? [] : [[text, text]]));
  const names = {
    item: course.items.map((i): IdAndTitle => [i.id, i.title]),
    group: own(course.items.map((i) => i.group)),
    section: own(course.people.map((p) => p.section)),
    person: course.people.map((p): IdAndTitle => [p.id, `${p.firstName} ${p.lastName}`]),
    mark: own(Object.keys(course.marks)),
    column: own(course.people.flatMap((p) => Object.keys(p.fields))),
    criterion: [],
    contact: own(['advisor', ...course.people.flatMap((p) => p.contacts.map((c) => c.kind))]),
  };
  listed.set(course, names);
  return names;
}

const spoken = new WeakMap<Named, Map<string, string>>();

/** A name as a sentence says it: in quotation marks where it would be read as something else. */
export function spokenName(course: Named, kind: SpokenKind, title: string): string {
  const known = spoken.get(course) ?? new Map<string, string>();
  spoken.set(course, known);
  const key = `${kind} ${title}`;
  const said = known.get(key) ?? (needsQuotes(course, kind, title) ? quoted(title) : title);
  known.set(key, said);
  return said;
}

/** A text in quotation marks; a closing mark in it is doubled. */
export const quoted = (text: string): string => `“${text.replaceAll('”', '””')}”`;

/** Words of the grammar that are names of groups in many courses, and that no phrase has where a name is expected. */
const NAMES_TOO: ReadonlySet<string> = new Set(['practice', 'participation', 'assignment', 'assignments', 'work']);

function needsQuotes(course: Named, kind: SpokenKind, title: string): boolean {
  const tokens = tokensOf(title);
  const outer = [tokens[0], tokens.at(-1)];
  if (outer.some((t) => t === undefined || t.kind === 'sign') || tokens.some((t) => t.kind === 'quoted')) return true;
  if (/["“”]/.test(title)) return true;
  const words = wordsOfName(title);
  const isNumber = (word: string) => kind !== 'section' && /^[-\d.]/.test(word);
  const isSpoken = (word: string) => GRAMMAR_WORDS.has(word) && !NAMES_TOO.has(word);
  if (words.every((word) => isSpoken(word) || ARTICLES.has(word) || isNumber(word))) return true;
  const begin = words.join(' ');
  return wordsIn(course, kind).some(
    ([other, others]) => other !== title && (others === begin || others.startsWith(`${begin} `)),
  );
}

const cut = new WeakMap<Named, Map<SpokenKind, readonly (readonly [string, string])[]>>();

/** The titles of a kind, and what of each is compared. */
function wordsIn(course: Named, kind: SpokenKind): readonly (readonly [string, string])[] {
  const known = cut.get(course) ?? new Map<SpokenKind, readonly (readonly [string, string])[]>();
  cut.set(course, known);
  const all =
    known.get(kind) ?? namesIn(course)[kind].map(([, title]) => [title, wordsOfName(title).join(' ')] as const);
  known.set(kind, all);
  return all;
}

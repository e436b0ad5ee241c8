/** The names of a course as words of a sentence: titles, groups, sections, people, named scores, columns, criteria, kinds of contacts. */
import { GRAMMAR_WORDS } from '../course/grammarWords.ts';
import type { Course } from '../course/course.ts';
import { ARTICLES, namesIn, wordsOfName, type IdAndTitle, type SpokenKind } from '../course/spokenName.ts';
import {
  pastArticles,
  reading,
  remembered,
  want,
  type NameReader,
  type Parser,
  type Reading,
  type Source,
} from './parsers.ts';

/** How a name that is wanted is noted in a source. */
export const wanted = (kind: SpokenKind): string => `{${kind}}`;

interface SpokenName {
  readonly id: string;
  readonly title: string;
  readonly words: readonly string[];
  /** The same words in one number. */
  readonly singles: readonly string[];
}

/** What is not part of a course and has names all the same. */
export interface OtherNames {
  /** Criteria of rubrics that have points. */
  readonly criteria?: readonly string[];
}

export class Vocabulary implements NameReader {
  private readonly names: Readonly<Record<SpokenKind, Lexicon>>;

  constructor(course: Course, { criteria = [] }: OtherNames = {}) {
    const { item, group, section, person, mark, column, contact } = namesIn(course);
    this.names = {
      item: new Lexicon(item),
      group: new Lexicon(group),
      section: new Lexicon(section),
      person: new Lexicon(person),
      mark: new Lexicon(mark),
      column: new Lexicon(column),
      criterion: new Lexicon(criteria.map((name) => [name, name])),
      contact: new Lexicon(contact),
    };
  }

  /** All names of a kind. */
  titles = (kind: SpokenKind): readonly string[] => this.names[kind].titles();

  read = (kind: SpokenKind, source: Source, at: number): readonly Reading<string>[] => {
    const found = this.names[kind].read(source, at);
    const token = source.tokens[at];
    // Rubrics come with grades: not everybody who reads a text knows their criteria.
    const isUnknown = kind === 'criterion' && found.length === 0 && token?.kind === 'quoted';
    return isUnknown ? [reading(token.text, at + 1, [{ from: at, to: at + 1, title: token.text }])] : found;
  };
}

const made = new WeakMap<Course, Map<string, Vocabulary>>();

/** The vocabulary of a course, made once. */
export function vocabularyOf(course: Course, others: OtherNames): Vocabulary {
  const known = made.get(course) ?? new Map<string, Vocabulary>();
  made.set(course, known);
  const key = (others.criteria ?? []).join('\n');
  const vocabulary = known.get(key) ?? new Vocabulary(course, others);
  known.set(key, vocabulary);
  return vocabulary;
}

/** A name of this kind; its value is the id by which rules name it. */
export const name = (kind: SpokenKind): Parser<string> =>
  remembered(`name ${kind}`, (source, at) => {
    const found = source.vocabulary.read(kind, source, at);
    want(source, pastArticles(source, at), wanted(kind));
    return found;
  });

/** Cost of a name that could be words of the grammar, without quotation marks. */
const LIKE_GRAMMAR = 1;
/** Costs of a name that is not said as a whole. */
const BY_WORDS = 1;
const BY_BEGINNINGS = 2;

class Lexicon {
  private readonly names: readonly SpokenName[];
  private readonly byFirst = new Map<string, SpokenName[]>();
  private readonly byWord = new Map<string, SpokenName[]>();
  private readonly bySingle = new Map<string, SpokenName[]>();

  constructor(names: readonly IdAndTitle[]) {
    this.names = names.map(([id, title]) => {
      const words = wordsOfName(title);
      return { id, title, words, singles: words.map(single) };
    });
    for (const name of this.names) {
      for (const w of new Set(name.words)) push(this.byWord, w, name);
      for (const w of new Set(name.singles)) push(this.bySingle, w, name);
      const first = name.words[0] ?? '';
      push(this.byFirst, first, name);
    }
  }

  titles = (): readonly string[] => this.names.map(({ title }) => title);

  read(source: Source, start: number): readonly Reading<string>[] {
    const at = pastArticles(source, start);
    const token = source.tokens[at];
    if (token === undefined) return [];
    const found = (names: readonly SpokenName[], end: number, cost: number) =>
      names.map(({ id, title }) => reading(id, end, [{ from: at, to: end, title }], cost));
    if (token.kind === 'quoted') return found(this.quoted(token.text), at + 1, 0);
    if (token.kind === 'sign') return [];
    const whole = this.whole(source, at);
    const part = this.part(source, at);
    const isLonger = part !== null && part.end > (whole?.end ?? 0);
    return [
      ...(whole ? found(whole.names, whole.end, whole.names[0]!.words.every(isGrammar) ? LIKE_GRAMMAR : 0) : []),
      ...(isLonger ? found(part.names, part.end, part.cost) : []),
    ];
  }

  private quoted(text: string): readonly SpokenName[] {
    const exact = this.names.filter(({ title }) => title === text);
    if (exact.length > 0) return exact;
    const said = wordsOfName(text);
    const whole = this.names.filter(({ words }) => words.join(' ') === said.join(' '));
    return whole.length > 0 ? whole : this.names.filter((known) => said.length > 0 && said.every((w) => has(known, w)));
  }

  /** The longest whole title that begins here. */
  private whole(source: Source, at: number): { names: readonly SpokenName[]; end: number } | null {
    let end = at;
    let names: SpokenName[] = [];
    for (const candidate of this.byFirst.get(source.tokens[at]!.text) ?? []) {
      if (candidate.words.every((w) => JOINING.has(w))) continue;
      const after = endOf(candidate.words, source, at);
      if (after === null || after < end) continue;
      if (after > end) names = [];
      end = after;
      names.push(candidate);
    }
    return names.length === 0 ? null : { names, end };
  }

  /** Names with a word that begins so. */
  private beginning(said: string): readonly SpokenName[] {
    const found = [...this.byWord].flatMap(([w, names]) => (w.startsWith(said) ? names : []));
    return [...new Set(found)];
  }

  /** The most pieces from here on that are words of a title, or beginnings of its words. */
  private part(source: Source, at: number): { names: readonly SpokenName[]; end: number; cost: number } | null {
    const first = source.tokens[at]!;
    if (first.kind === 'sign' || first.kind === 'quoted' || first.kind === 'number') return null;
    const ways = [
      [has, BY_WORDS, this.bySingle.get(single(first.text)) ?? []],
      [begins, BY_BEGINNINGS, this.beginning(first.text)],
    ] as const;
    for (const [fits, cost, found] of ways) {
      let names: readonly SpokenName[] = found;
      let best: readonly SpokenName[] = [];
      let end = at;
      for (let i = at; i < source.tokens.length; i++) {
        const token = source.tokens[i]!;
        if (token.kind === 'sign' || token.kind === 'quoted') break;
        if (i > at) names = names.filter((known) => fits(known, token.text));
        if (names.length === 0) break;
        // Words of the grammar alone are never short for a title, and none of them ends a title that is not whole.
        if (!isGrammar(token.text) && (token.kind === 'word' || i > at)) [best, end] = [names, i + 1];
      }
      if (best.length > 0) return { names: best, end, cost };
    }
    return null;
  }
}

function push(map: Map<string, SpokenName[]>, key: string, name: SpokenName): void {
  const known = map.get(key);
  if (known) known.push(name);
  else map.set(key, [name]);
}

/** A name of nothing but these is read in quotation marks alone. */
const JOINING: ReadonlySet<string> = new Set([
  'and',
  'or',
  'but',
  'not',
  'unless',
  'without',
  'with',
  'who',
  'that',
  'in',
  'on',
  'of',
  'for',
  'to',
  'at',
]);

const isGrammar = (text: string): boolean => GRAMMAR_WORDS.has(text);

/** A word in one number or the other. */
const single = (word: string): string =>
  /(?:ss|zz|x|ch|sh)es$/.test(word)
    ? word.slice(0, -2).replace(/zz$/, 'z')
    : word.endsWith('ies')
      ? `${word.slice(0, -3)}y`
      : word.replace(/s$/, '');

const has = ({ singles }: SpokenName, said: string): boolean => singles.includes(single(said));
const begins = ({ words }: SpokenName, said: string): boolean => words.some((w) => w.startsWith(said));

/** Behind the last of these words, if they are said here one by one with nothing but signs and articles between them. */
function endOf(words: readonly string[], { tokens }: Source, at: number): number | null {
  let i = at;
  for (const [n, said] of words.entries()) {
    if (n > 0) while (tokens[i] && (tokens[i]!.kind === 'sign' || isSkipped(tokens[i]!.text, said))) i++;
    const token = tokens[i];
    if (!token || token.kind === 'quoted' || token.text !== said) return null;
    i++;
  }
  return i;
}

const isSkipped = (text: string, wantedNext: string): boolean => text !== wantedNext && ARTICLES.has(text);

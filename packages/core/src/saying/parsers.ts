/** Small parsers over the pieces of a typed sentence. Each gives every way in which it can read them, and where that ends. */
import { ARTICLES, type SpokenKind, type Token } from '../course/spokenName.ts';
import type { Course } from '../course/course.ts';

/** A name that was read, by the pieces that say it. */
export interface NameRead {
  readonly from: number;
  readonly to: number;
  readonly title: string;
}

/** One way to read something: what it means, the first piece behind it, and the names in it. */
export interface Reading<T> {
  readonly value: T;
  readonly end: number;
  readonly names: readonly NameRead[];
  /** How far it is from the words that are printed: of two that end alike, the lower one counts. */
  readonly cost: number;
}

/** The names of a course, as `vocabulary.ts` reads them. */
export interface NameReader {
  readonly titles: (kind: SpokenKind) => readonly string[];
  readonly read: (kind: SpokenKind, source: Source, at: number) => readonly Reading<string>[];
}

/** What is read, and what was looked for at its furthest piece. */
export interface Source {
  readonly tokens: readonly Token[];
  /** By `behindArticles`. */
  readonly pastArticles: readonly number[];
  readonly vocabulary: NameReader;
  readonly course: Course;
  /** The text itself. */
  readonly typed: string;
  /** By the piece at which they were looked for: words, and the kinds of names. */
  readonly wanted: Map<number, Set<string>>;
  /** What was read already, by what was looked for and where. */
  readonly memo: Map<string, readonly Reading<unknown>[]>;
}

export type Parser<T> = (source: Source, at: number) => readonly Reading<T>[];

export const reading = <T>(value: T, end: number, names: readonly NameRead[] = [], cost = 0): Reading<T> => ({
  value,
  end,
  names,
  cost,
});

/** Notes what would have been read here. */
export function want(source: Source, at: number, what: string): void {
  const known = source.wanted.get(at);
  if (known) known.add(what);
  else source.wanted.set(at, new Set([what]));
}

/** For each piece, the next one that is no article; itself where none follows. */
export function behindArticles(tokens: readonly Token[]): readonly number[] {
  const found: number[] = [];
  let next = -1;
  for (let at = tokens.length - 1; at >= 0; at--) {
    const { kind, text } = tokens[at]!;
    if (kind !== 'word' || !ARTICLES.has(text)) next = at;
    found[at] = next < 0 ? at : next;
  }
  return found;
}

/** The next piece that is no article. */
export const pastArticles = (source: Source, at: number): number => source.pastArticles[at] ?? at;

const isOneOf = ({ kind, text }: Token, known: ReadonlySet<string>): boolean =>
  (kind === 'word' || kind === 'sign') && known.has(text);

/** The place of one of these words at or behind the articles here; −1 without one. */
function placeOf(source: Source, at: number, known: ReadonlySet<string>): number {
  const token = source.tokens[at];
  if (token === undefined) return -1;
  if (isOneOf(token, known)) return at;
  if (!ARTICLES.has(token.text)) return -1;
  const next = pastArticles(source, at);
  return isOneOf(source.tokens[next]!, known) ? next : -1;
}

/** Every word that some parser looks for: the words of the grammar. */
export const spokenWords = new Set<string>();

/** One of these words or signs. */
export const word = (...words: readonly string[]): Parser<string> => {
  const known = new Set(words);
  for (const w of words) spokenWords.add(w);
  return (source, at) => {
    const place = placeOf(source, at, known);
    if (place >= 0) return [reading(source.tokens[place]!.text, place + 1)];
    for (const w of known) want(source, at, w);
    return [];
  };
};

/** These words one after the other, with alternatives as in “in|on”. */
export const words = (phrase: string): Parser<null> => {
  const pieces = phrase.split(' ').map((alternatives) => new Set(alternatives.split('|')));
  for (const known of pieces) for (const w of known) spokenWords.add(w);
  return (source, at) => {
    let end = at;
    for (const known of pieces) {
      const place = placeOf(source, end, known);
      if (place < 0) {
        for (const w of known) want(source, end, w);
        return [];
      }
      end = place + 1;
    }
    return [reading(null, end)];
  };
};

export const nothing: Parser<null> = (_, at) => [reading(null, at)];

export function then<A, B, C>(first: Parser<A>, second: Parser<B>, join: (a: A, b: B) => C | undefined): Parser<C> {
  return (source, at) => {
    const found: Reading<C>[] = [];
    for (const a of first(source, at)) {
      for (const b of second(source, a.end)) {
        const value = join(a.value, b.value);
        const names = b.names.length === 0 ? a.names : a.names.length === 0 ? b.names : [...a.names, ...b.names];
        if (value !== undefined) found.push(reading(value, b.end, names, a.cost + b.cost));
      }
    }
    return found;
  };
}

export const map =
  <A, B>(parser: Parser<A>, change: (a: A) => B | undefined): Parser<B> =>
  (source, at) => {
    const found: Reading<B>[] = [];
    for (const r of parser(source, at)) {
      const value = change(r.value);
      if (value !== undefined) found.push(reading(value, r.end, r.names, r.cost));
    }
    return found;
  };

export const either =
  <T>(...parsers: readonly Parser<T>[]): Parser<T> =>
  (source, at) => {
    const found: Reading<T>[] = [];
    for (const parser of parsers) found.push(...parser(source, at));
    return found;
  };

export const optional = <T>(parser: Parser<T>): Parser<T | null> => either<T | null>(parser, nothing);

/** Reads once at each piece, however often that is asked. */
export const remembered =
  <T>(key: string, parser: Parser<T>): Parser<T> =>
  (source, at) => {
    const place = `${key} ${at}`;
    const known = source.memo.get(place) as readonly Reading<T>[] | undefined;
    if (known) return known;
    const found = parser(source, at);
    source.memo.set(place, found);
    return found;
  };

/** Of all ways to read it, those that take in the most; of these, those that are nearest to what is printed. Each meaning once. */
export function best<T>(all: readonly Reading<T>[]): readonly Reading<T>[] {
  const end = Math.max(...all.map((r) => r.end));
  const furthest = all.filter((r) => r.end === end);
  const cost = Math.min(...furthest.map((r) => r.cost));
  const kept = new Map<string, Reading<T>>();
  for (const r of furthest) {
    const key = JSON.stringify(r.value);
    if (r.cost === cost && !kept.has(key)) kept.set(key, r);
  }
  return [...kept.values()];
}

/** Several with a comma, a semicolon, “and” or “or” between them; every length that the list may have. */
export function list<T>(parser: Parser<T>, most = 60): Parser<readonly T[]> {
  const between = either(
    then(words(',|;|&'), optional(word('and', 'or')), () => null),
    words('and|or'),
  );
  return (source, at) => {
    const found: Reading<readonly T[]>[] = [];
    let open: readonly Reading<readonly T[]>[] = parser(source, at).map((r) => ({ ...r, value: [r.value] }));
    for (let n = 0; n < most && open.length > 0; n++) {
      found.push(...open);
      open = open
        .flatMap((r) => then(between, parser, (_, next) => next)(source, r.end).map((next) => [r, next] as const))
        .map(([r, next]) =>
          reading([...r.value, next.value], next.end, [...r.names, ...next.names], r.cost + next.cost),
        );
      // Two names that are alike would double the readings with every further one.
      if (open.length > 8) open = open.slice(0, 8);
    }
    return found;
  };
}

/** Reads a rule that somebody typed as a sentence ([Y1] to [Y8]). Nothing is guessed: what is doubtful is asked. */
import { parseCondition, type Leaf } from '../conditions/condition.ts';
import { conditionSentence } from '../conditions/sentence.ts';
import type { Course } from '../course/course.ts';
import type { Token } from '../course/spokenName.ts';
import { assemble, type RhythmBase } from './assemble.ts';
import { choicesOf, conditionIn, readCondition, type OpenChoice, type Tree } from './conditions.ts';
import type { SaidAudience } from './limits.ts';
import { MOST_NEAR, nearest } from './nearest.ts';
import { offers } from './offers.ts';
import { best, either, words, type NameRead, type Parser, type Source } from './parsers.ts';
import { ABOUT, partAt, type Piece } from './parts.ts';
import { conditionOf, wantClause } from './phrases.ts';
import type { SaidRecurrence } from './rhythm.ts';
import { saidParts, saidSentence, type SaidPart, type SaidRule } from './saidRule.ts';
import { sourceOf } from './source.ts';
import type { OtherNames } from './vocabulary.ts';

export type SayingCode = 'unknownWord' | 'ambiguous' | 'incomplete' | 'refused' | 'nothing';

/** Something in a text that keeps it from being a rule. */
export interface SayingProblem {
  /** In UTF-16 units; `to` is excluded. */
  readonly from: number;
  readonly to: number;
  readonly code: SayingCode;
  /** At most five: words or titles that may be meant, readings, what may follow, or why it is refused. */
  readonly near: readonly string[];
}

/** Which words say what. */
export interface SaidSpan {
  readonly from: number;
  readonly to: number;
  readonly about: keyof SaidRule;
}

export interface Said {
  /** Null where there are problems. */
  readonly rule: SaidRule | null;
  /** The rule as a sentence; empty where there are problems. */
  readonly parts: readonly SaidPart[];
  readonly spans: readonly SaidSpan[];
  readonly problems: readonly SayingProblem[];
  /** Every rule that the text can mean, if nothing but the choice between them is missing. */
  readonly readings: readonly SaidRule[];
}

/** How a text is read. */
export interface SayingOptions extends OtherNames {
  /** The local date and time of a rhythm of which neither is said; the course's first day at 9:00 unless given. */
  readonly start?: string;
  /** Which parts of a rule the field takes; all unless given. */
  readonly only?: readonly (keyof SaidRule)[];
  /** Without a condition it is no answer. */
  readonly needsCondition?: boolean;
}

/** Words between the parts that say nothing. */
const FILLER: Parser<null> = either(
  words(',|;|.|!|?'),
  words('and|but|also|then|please|thanks|look|check|for|when|if|to'),
  words('nudge|remind|message each|all of them'),
  words('nudge|remind|message them'),
  words('nudge|remind|message'),
  words('about each|all of them'),
);

/** Readings of one text that are followed up. */
const MOST_READINGS = 64;
/** Reads a text. Never throws. */
export function say(text: string, course: Course, options: SayingOptions = {}): Said {
  return read(sourceOf(text, course, options), text, options);
}

/** The same, noting in the source what was looked for. */
export function read(source: Source, text: string, { only, start, needsCondition }: SayingOptions): Said {
  const { tokens, course } = source;
  const frame: RhythmBase = { course, start: start ?? `${course.start}T09:00` };
  const pieces: Piece[] = [];
  const trees: { tree: Tree; from: number; to: number }[] = [];
  const problems: SayingProblem[] = [];
  for (let at = 0; at < tokens.length;) {
    const filler = best(FILLER(source, at))[0];
    const condition = readCondition(source, at);
    const found = partAt(source, at);
    const end = Math.max(condition?.end ?? at, found?.to ?? at);
    if (end > at && end >= (filler?.end ?? at)) {
      if (condition && condition.end === end) trees.push({ tree: condition.tree, from: at, to: end });
      else if (found) pieces.push(found);
      at = end;
    } else if (filler) at = filler.end;
    else at = skipUnknown(source, at, problems);
  }
  const near = (piece: { from: number; to: number }, code: SayingCode, said: readonly string[]) =>
    problems.push({ ...spanOf(tokens, piece.from, piece.to), code, near: said.slice(0, MOST_NEAR) });
  if (pieces.length + trees.length === 0 && problems.length === 0)
    problems.push({ from: 0, to: text.length, code: 'nothing', near: [] });

  const built = build(frame, pieces, trees, near);
  if (needsCondition && trees.length === 0 && problems.length === 0) {
    problems.push({
      from: text.length,
      to: text.length,
      code: 'incomplete',
      near: ['away 5 days', 'something missing'],
    });
  }
  checkField(only, pieces, trees, near);
  const spans: SaidSpan[] = [
    ...trees.map(({ from, to }) => ({ ...spanOf(tokens, from, to), about: 'when' as const })),
    ...pieces.map((p) => ({ ...spanOf(tokens, p.from, p.to), about: ABOUT[p.kind] })),
  ].sort((a, b) => a.from - b.from);
  const isAsked = problems.every((p) => p.code === 'ambiguous');
  const readings = isAsked ? built() : [];
  const rule = problems.length === 0 ? (readings[0] ?? null) : null;
  return {
    rule,
    parts: rule ? saidParts(rule, course) : [],
    spans,
    problems: problems.sort((a, b) => a.from - b.from),
    readings,
  };
}

const spanOf = (tokens: readonly Token[], from: number, to: number) => ({
  from: tokens[from]?.from ?? tokens.at(-1)?.to ?? 0,
  to: tokens[Math.min(to, tokens.length) - 1]?.to ?? 0,
});

const isEnd = (token: Token | undefined): boolean => token === undefined || /^[,;.!?]$/.test(token.text);

/** Names what is not understood at a piece, and gives the piece to go on with. */
function skipUnknown(source: Source, at: number, problems: SayingProblem[]): number {
  const { tokens, wanted: looked } = source;
  wantClause(source, at);
  const furthest = Math.max(at, ...[...looked.keys()].filter((i) => i > at));
  // Something began here and could not be ended there.
  if (furthest > at && isEnd(tokens[furthest])) {
    problems.push({
      ...spanOf(tokens, at, furthest),
      code: 'incomplete',
      near: offers(source, furthest).slice(0, MOST_NEAR),
    });
    return furthest;
  }
  const token = tokens[furthest]!;
  const typed = token.text;
  const near = nearest(typed, offers(source, furthest));
  const before = problems.at(-1);
  const isNext =
    before?.code === 'unknownWord' &&
    before.near.length === 0 &&
    near.length === 0 &&
    tokens[furthest - 1]?.to === before.to;
  if (isNext) problems[problems.length - 1] = { ...before, to: token.to };
  else problems.push({ ...spanOf(tokens, furthest, furthest + 1), code: 'unknownWord', near });
  return furthest + 1;
}

type Near = (piece: { from: number; to: number }, code: SayingCode, said: readonly string[]) => void;

/** Puts the parts together; gives all readings when it is called. */
function build(
  frame: RhythmBase,
  pieces: readonly Piece[],
  trees: readonly { tree: Tree; from: number; to: number }[],
  near: Near,
): () => readonly SaidRule[] {
  const { course } = frame;
  const [first, ...more] = trees;
  for (const again of more) near(again, 'refused', ['The condition is here twice. Join both with “and” or “or”.']);
  const choices = first ? choicesOf(first.tree) : [];
  for (const choice of choices) checkChoice(choice, course, near);
  const seen = new Set<string>();
  const hasTime = pieces.some((p) => p.kind === 'time');
  for (const piece of pieces) {
    if (piece.kind !== 'limit' && seen.has(piece.kind) && piece.kind !== 'told')
      near(piece, 'refused', ['This is said twice.']);
    seen.add(piece.kind);
    if (piece.values.length > 1) near(piece, 'ambiguous', wordsOfReadings(piece, frame));
    const [value] = piece.values;
    if (piece.kind === 'recurrence') checkRecurrence(piece, value as SaidRecurrence, hasTime, frame, near);
  }
  const keys = pieces.filter((p) => p.kind === 'limit').flatMap((p) => Object.keys(p.values[0] as object));
  if (new Set(keys).size < keys.length)
    near(
      pieces.findLast((p) => p.kind === 'limit')!,
      'refused',
      ['This limit is said twice.'],
    );
  return () => {
    const all = [...choices.map((c) => c.readings.length), ...pieces.map((p) => p.values.length)];
    return combinations(all).map((picked) => {
      const chosen = (choice: OpenChoice): readonly Leaf[] => choice.readings[picked[choices.indexOf(choice)]!]!;
      const values = pieces.map((p, i) => ({ kind: p.kind, value: p.values[picked[choices.length + i]!] }));
      return assemble(frame, first ? { when: conditionIn(first.tree, chosen) } : {}, values);
    });
  };
}

/** Asks whether “every 14 days” is meant as a limit, unless a time is said, and on which day of the week. */
function checkRecurrence(piece: Piece, recurs: SaidRecurrence, hasTime: boolean, frame: RhythmBase, near: Near): void {
  const { gap } = recurs;
  if (gap !== null && !hasTime) {
    const said = (kind: Piece['kind'], value: unknown) =>
      saidSentence(assemble(frame, {}, [{ kind, value }]), frame.course);
    near(piece, 'ambiguous', [said('recurrence', recurs), said('limit', { gap: { days: gap, hours: 0 } })]);
  } else if (recurs.needsDay) near(piece, 'incomplete', ['on Monday', 'on Wednesday', 'on Friday', 'on weekdays']);
}

/** Every way to pick one of each, up to a number of ways. */
function combinations(sizes: readonly number[]): readonly (readonly number[])[] {
  let all: (readonly number[])[] = [[]];
  for (const size of sizes) {
    all = all.flatMap((picked) => Array.from({ length: size }, (_, i) => [...picked, i])).slice(0, MOST_READINGS);
  }
  return all;
}

function checkChoice(choice: OpenChoice, course: Course, near: Near): void {
  if (choice.readings.length > 1) {
    const name = differingName(choice.names);
    near(
      name ?? choice,
      'ambiguous',
      name?.titles ?? choice.readings.map((r) => conditionSentence(conditionOf(r), course)),
    );
  }
  for (const leaf of choice.readings[0]!) {
    const parsed = parseCondition(leaf);
    if (!parsed.ok)
      near(
        choice,
        'refused',
        parsed.problems.map((p) => p.message),
      );
  }
}

/** The one name in which all readings differ; null where they differ in more. */
function differingName(
  names: readonly (readonly NameRead[])[],
): { from: number; to: number; titles: readonly string[] } | null {
  const [first] = names;
  if (!first || names.some((n) => n.length !== first.length)) return null;
  const differing = first.flatMap((_, i) => (new Set(names.map((n) => n[i]!.title)).size > 1 ? [i] : []));
  const [at, another] = differing;
  if (at === undefined || another !== undefined) return null;
  const { from, to } = first[at]!;
  return names.every((n) => n[at]!.from === from && n[at]!.to === to)
    ? { from, to, titles: [...new Set(names.map((n) => n[at]!.title))] }
    : null;
}

function wordsOfReadings(piece: Piece, frame: RhythmBase): readonly string[] {
  const name = differingName(piece.names);
  if (name) return name.titles;
  return piece.values.map((value) => saidSentence(assemble(frame, {}, [{ kind: piece.kind, value }]), frame.course));
}

function checkField(
  only: SayingOptions['only'],
  pieces: readonly Piece[],
  trees: readonly { from: number; to: number }[],
  near: Near,
): void {
  if (!only) return;
  const message = ['This part has no place in this field.'];
  for (const piece of pieces) {
    const isStudents =
      piece.kind === 'audience' &&
      (piece.values[0] as SaidAudience).sections.length + (piece.values[0] as SaidAudience).except.length === 0;
    if (!only.includes(ABOUT[piece.kind]) && !isStudents) near(piece, 'refused', message);
  }
  if (!only.includes('when')) for (const tree of trees) near(tree, 'refused', message);
}

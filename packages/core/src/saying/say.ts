/** Reads a rule that somebody typed as a sentence ([Y1] to [Y8]). Nothing is guessed: what is doubtful is asked. */
import { parseCondition, type Leaf } from '../conditions/condition.ts';
import { conditionSentence } from '../conditions/sentence.ts';
import type { Course } from '../course/course.ts';
import { GRAMMAR_WORDS } from '../course/grammarWords.ts';
import { tokensOf, type Token } from '../course/spokenName.ts';
import type { RecipientSpec } from '../rules/rule.ts';
import { choicesOf, conditionIn, readCondition, type OpenChoice, type Tree } from './conditions.ts';
import { audience, limit, spellsFrom, steps, told, weight, type SaidAudience, type Told } from './limits.ts';
import { MOST_NEAR, nearest } from './nearest.ts';
import { best, either, words, type NameRead, type Parser, type Reading, type Source } from './parsers.ts';
import { conditionOf, wantClause } from './phrases.ts';
import { onOneDate, recurrence, run, timeOfDay, type SaidRecurrence, type SaidRun } from './rhythm.ts';
import { saidParts, saidSentence, type SaidPart, type SaidRule } from './saidRule.ts';
import { vocabularyOf, type OtherNames } from './vocabulary.ts';
import { SPOKEN_KINDS, type SpokenKind } from '../course/spokenName.ts';
import { wanted } from './vocabulary.ts';

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

interface Piece<T = unknown> {
  readonly kind: 'audience' | 'recurrence' | 'time' | 'run' | 'limit' | 'told' | 'weight' | 'spellsFrom' | 'steps';
  readonly from: number;
  readonly to: number;
  readonly values: readonly T[];
  readonly names: readonly (readonly NameRead[])[];
}

const PARTS: readonly (readonly [Piece['kind'], Parser<unknown>])[] = [
  ['audience', audience],
  ['recurrence', either(recurrence, onOneDate)],
  ['time', timeOfDay],
  ['run', run],
  ['limit', limit],
  ['told', told],
  ['weight', weight],
  ['spellsFrom', spellsFrom],
  ['steps', steps],
];

const ABOUT: Readonly<Record<Piece['kind'], keyof SaidRule>> = {
  audience: 'audience',
  recurrence: 'rhythm',
  time: 'rhythm',
  run: 'rhythm',
  limit: 'repeat',
  told: 'steps',
  weight: 'weight',
  spellsFrom: 'spellsFrom',
  steps: 'steps',
};

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
/** Longer texts are no sentence. */
export const LONGEST_TEXT = 4000;

function sourceOf(text: string, course: Course, others: OtherNames): Source {
  const tokens = text.length > LONGEST_TEXT ? [] : tokensOf(text);
  const vocabulary = vocabularyOf(course, others);
  return { tokens, course, typed: text, vocabulary, wanted: new Map(), memo: new Map() };
}

/** Reads a text. Never throws. */
export function say(text: string, course: Course, options: SayingOptions = {}): Said {
  return read(sourceOf(text, course, options), text, options);
}

/** What may follow a text, or end its last word: titles first, then words; at most `most`. */
export function completionsOf(text: string, course: Course, options: SayingOptions = {}, most = 12): readonly string[] {
  const source = sourceOf(text, course, options);
  const { tokens } = source;
  if (text !== '' && tokens.length === 0) return [];
  const isOpen = text !== '' && !/\s$/.test(text);
  const from = isOpen ? tokens.at(-1)!.from : text.length;
  const at = isOpen ? tokens.length - 1 : tokens.length;
  const { problems } = read(source, text, options);
  // Behind a word that is not understood nothing is sure.
  if (problems.some((p) => p.code === 'unknownWord' && p.to <= from)) return [];
  const isIncomplete = problems.some((p) => p.code === 'incomplete' && p.to > p.from && p.to >= text.trimEnd().length);
  if (!isIncomplete || isOpen) {
    if (options.only?.includes('when') ?? true) wantClause(source, at);
    // A part is looked for wherever it may have begun.
    for (let start = 0; start <= at; start++) partsAt(source, start, options.only);
  }
  const last = isOpen ? text.slice(from).toLowerCase() : '';
  const fits = (offer: string) =>
    last === '' ||
    offer
      .toLowerCase()
      .split(/\s+/)
      .some((w, i) => w.startsWith(last) && (i > 0 || offer.toLowerCase() !== last));
  const found = offers(source, at).filter(fits);
  // Behind what is complete, most people go on with a word.
  const isWord = (offer: string) => GRAMMAR_WORDS.has(offer);
  const isComplete = problems.length === 0 && !isOpen;
  return (isComplete ? [...found.filter(isWord), ...found.filter((o) => !isWord(o))] : found).slice(0, most);
}

function read(source: Source, text: string, { only, start, needsCondition }: SayingOptions): Said {
  const { tokens, course } = source;
  const frame: RhythmBase = { course, start: start ?? `${course.start}T09:00` };
  const pieces: Piece[] = [];
  const trees: { tree: Tree; from: number; to: number }[] = [];
  const problems: SayingProblem[] = [];
  for (let at = 0; at < tokens.length;) {
    const filler = best(FILLER(source, at))[0];
    const condition = readCondition(source, at);
    const found = partsAt(source, at);
    const end = Math.max(condition?.end ?? at, found[0]?.to ?? at);
    if (end > at && end >= (filler?.end ?? at)) {
      if (condition && condition.end === end) trees.push({ tree: condition.tree, from: at, to: end });
      else pieces.push(...found);
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

/** The longest part that begins here, in each way to read it. */
function partsAt(source: Source, at: number, only?: SayingOptions['only']): readonly Piece[] {
  const all = PARTS.flatMap(([kind, parser]) => {
    if (only && !only.includes(ABOUT[kind])) return [];
    const found: readonly Reading<unknown>[] = best(parser(source, at));
    if (found.length === 0) return [];
    const piece: Piece = {
      kind,
      from: at,
      to: found[0]!.end,
      values: found.map((r) => r.value),
      names: found.map((r) => r.names),
    };
    return [piece];
  });
  const end = Math.max(...all.map((p) => p.to));
  return all.filter((p) => p.to === end).slice(0, 1);
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

const KIND_OF = new Map(SPOKEN_KINDS.map((kind) => [wanted(kind), kind]));

/** What may stand at a piece: titles first, then words. */
function offers({ wanted: looked, vocabulary }: Source, at: number): readonly string[] {
  const said = [...(looked.get(at) ?? [])];
  const kinds = said
    .flatMap((w): SpokenKind[] => {
      const kind = KIND_OF.get(w);
      return kind ? [kind] : [];
    })
    .sort((a, b) => SPOKEN_KINDS.indexOf(a) - SPOKEN_KINDS.indexOf(b));
  const plain = said.filter((w) => /^[\p{L}]/u.test(w));
  const titles = (of: (kind: SpokenKind) => boolean) => kinds.filter(of).flatMap((kind) => vocabulary.titles(kind));
  // A named score may stand wherever a number may.
  return [...titles((kind) => kind !== 'mark'), ...plain, ...titles((kind) => kind === 'mark')];
}

/** What a rhythm begins with where that is not said. */
interface RhythmBase {
  readonly course: Course;
  readonly start: string;
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

/** The rule that these parts make. */
function assemble(
  frame: RhythmBase,
  start: SaidRule,
  values: readonly { kind: Piece['kind']; value: unknown }[],
): SaidRule {
  const of = <T>(kind: Piece['kind']): readonly T[] => values.flatMap((v) => (v.kind === kind ? [v.value as T] : []));
  const [who] = of<SaidAudience>('audience');
  const [weightSaid] = of<NonNullable<SaidRule['weight']>>('weight');
  const [from] = of<number>('spellsFrom');
  const limits = of<NonNullable<SaidRule['repeat']>>('limit');
  const [stepCount = 1] = of<number>('steps');
  const to = recipients(of<Told>('told'));
  const isStudents = who && who.roles.join() === 'student' && who.sections.length + who.except.length === 0;
  return {
    ...start,
    ...(who && !isStudents && { audience: who }),
    ...rhythmOf(frame, of<SaidRecurrence>('recurrence')[0], of<string>('time')[0], of<SaidRun>('run')),
    ...(limits.length > 0 && { repeat: Object.assign({}, ...limits) as NonNullable<SaidRule['repeat']> }),
    ...(weightSaid && { weight: weightSaid }),
    ...(from !== undefined && { spellsFrom: from }),
    ...((to !== null || stepCount > 1) && {
      steps: Array.from({ length: stepCount }, () => (to === null ? {} : { to })),
    }),
  };
}

function rhythmOf(
  { start }: RhythmBase,
  recurs: SaidRecurrence | undefined,
  time: string | undefined,
  runs: readonly SaidRun[],
): SaidRule {
  if (!recurs && time === undefined && runs.length === 0) return {};
  const from = runs.map((r) => r.from).find((d) => d !== null) ?? start.slice(0, 10);
  const until = runs.map((r) => r.until).find((d) => d !== null);
  return {
    rhythm: {
      start: `${from}T${time ?? start.slice(11)}`,
      ...(recurs && { rrule: recurs.rrule }),
      ...(until === undefined || until === null ? {} : { until }),
    },
  };
}

/** Nobody but those named; a copy, and somebody's contact, go beside the student. */
function recipients(all: readonly Told[]): readonly RecipientSpec[] | null {
  if (all.length === 0) return null;
  const only = all.find((t) => t.how === 'only');
  const others = all.filter((t) => t.how !== 'only').flatMap((t) => t.to);
  return [...new Set<RecipientSpec>([...(only?.to ?? ['student']), ...others])];
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

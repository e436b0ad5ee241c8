/** The phrases of the measures (`Measure.phrases`) as parsers, and what each reads as conditions ([Y1]). */
import type { Condition, Leaf } from '../conditions/condition.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import {
  isAbsence,
  type Measure,
  type MeasureCall,
  type NumberOrMark,
  type PhraseWithMeaning,
} from '../measures/values/measure.ts';
import type { Course } from '../course/course.ts';
import { window } from './dates.ts';
import {
  either,
  list,
  map,
  nothing,
  optional,
  pastArticles,
  reading,
  remembered,
  then,
  word,
  words,
  type Parser,
  type Reading,
  type Source,
} from './parsers.ts';
import {
  BEHIND,
  canCompare,
  comparison,
  figure,
  quantity,
  quotedText,
  text,
  wholeDays,
  type SaidComparison,
  type SaidTest,
} from './quantities.ts';
import { name } from './vocabulary.ts';

/** What the slots of a phrase say. */
interface Slots extends Omit<Partial<MeasureCall>, 'measure'> {
  readonly comparison?: SaidComparison;
  readonly exactly?: NumberOrMark;
  readonly text?: string;
  /** "or more" behind what is counted. */
  readonly more?: NonNullable<SaidTest['is']>;
}

const several: Parser<Slots> = either<Slots>(
  map(nothing, () => ({})),
  then(word('in', 'within'), name('group'), (_, group) => ({ group })),
  then(word('among', 'of'), list(name('item'), 1000), (_, items) => ({ items })),
);

const soon: Parser<Slots> = either<Slots>(
  then(
    word('within', 'in'),
    then(figure, word('hour', 'hours'), (n) => n),
    (_, hours) => ({ hours }),
  ),
  then(word('within', 'in'), wholeDays, (_, days) => ({ days })),
  map(words('today'), () => ({ days: 0 })),
  map(words('by|until tomorrow'), () => ({ days: 1 })),
);

const SLOTS: Readonly<Record<string, Parser<Slots>>> = {
  item: map(name('item'), (item) => ({ item })),
  items: map(list(name('item'), 1000), (items) => ({ items })),
  group: map(name('group'), (group) => ({ group })),
  criterion: map(name('criterion'), (criterion) => ({ criterion })),
  column: map(name('column'), (column) => ({ name: column })),
  several: remembered('several', several),
  window: map(remembered('window', window), (w) => (w === null ? {} : { window: w })),
  days: map(wholeDays, (days) => ({ days })),
  soon,
  more: map(optional(BEHIND), (is) => (is === null ? {} : { more: is })),
  than: map(quantity('%'), (than) => ({ than })),
  quoted: map(quotedText, (said) => ({ text: said })),
  text: map(text, (said) => ({ text: said })),
};

function slot(spoken: string): Parser<Slots> {
  const [kind, of] = spoken.split(':');
  if (kind === 'n') return map(comparison(of!), (said) => ({ comparison: said }));
  if (kind === 'x') return map(quantity(of!), (exactly) => ({ exactly }));
  return SLOTS[spoken]!;
}

const join = (a: Slots, b: Slots): Slots => ({ ...a, ...b });

/** A phrase as a parser: see `Phrase` for how it is written. */
function compile(phrase: string): Parser<Slots> {
  return piecesOf(phrase).reduce<Parser<Slots>>(
    (before, piece) => {
      if (piece.startsWith('[')) return then(before, optional(compile(piece.slice(1, -1))), (a, b) => join(a, b ?? {}));
      if (piece.startsWith('{')) return then(before, slot(piece.slice(1, -1).replaceAll(' ', '_')), join);
      return then(before, spelled(piece), (a) => a);
    },
    map(nothing, () => ({})),
  );
}

/** Words without a hyphen: the pieces of a text have none. */
const spelled = (piece: string): Parser<null> => words(piece.replaceAll('-', ' '));

interface Beginnings {
  readonly words: ReadonlySet<string>;
  /** The slot with which it can begin; null where a word comes first. */
  readonly slot: string | null;
}

/** With what a phrase can begin. */
function beginnings(phrase: string): Beginnings {
  const found = new Set<string>();
  for (const piece of piecesOf(phrase)) {
    if (piece.startsWith('{')) return { words: found, slot: piece.slice(1, -1) };
    const isOptional = piece.startsWith('[');
    const first = (isOptional ? piece.slice(1, -1) : piece).split(' ')[0]!;
    for (const w of first.split('|')) found.add(w.split('-')[0]!);
    if (!isOptional) return { words: found, slot: null };
  }
  return { words: found, slot: null };
}

const piecesOf = (phrase: string): readonly string[] => phrase.match(/\[[^\]]*\]|\{[^}]*\}|[^\s]+/g) ?? [];

/** Whether a slot can begin here. */
function canBegin(slot: string, source: Source, at: number): boolean {
  if (slot.startsWith('n:')) return canCompare(source, at);
  if (slot === 'text') return true;
  return slot.startsWith('x:') || SLOTS[slot]!(source, at).length > 0;
}

interface CompiledPhrase extends PhraseWithMeaning {
  readonly measure: Measure;
  readonly read: Parser<Slots>;
  readonly beginnings: Beginnings;
}

const PHRASES: readonly CompiledPhrase[] = Object.values(CATALOGUE).flatMap((measure) =>
  measure.phrases.map((phrase) => {
    const meaning = typeof phrase === 'string' ? { say: phrase } : phrase;
    return { ...meaning, measure, read: compile(meaning.say), beginnings: beginnings(meaning.say) };
  }),
);

/** Where a bare number is "at least" ([Y2]); elsewhere it is asked. */
const isAtLeast = ({ name: measure }: Measure): boolean =>
  isAbsence(measure) ||
  [
    'longestGap',
    'daysEnrolled',
    'daysAwaitingGrade',
    'missing',
    'late',
    'absences',
    'streak',
    'lowScores',
    'highScores',
    'dueSoon',
  ].includes(measure);

const FLIPPED = { '>=': '<=', '<=': '>=', '>': '<', '<': '>', equals: 'equals', differs: 'differs' } as const;

/** The conditions that a phrase can mean; more than one where it has to be asked. A range has two parts. */
function meant(phrase: CompiledPhrase, slots: Slots, course: Course): readonly (readonly Leaf[])[] {
  const { comparison: said, more, exactly, text: typed, ...parameters } = slots;
  const compared = said && more ? withMore(said, more) : said;
  const call: MeasureCall = { measure: phrase.measure.name, ...parameters, ...(phrase.of && { of: phrase.of }) };
  const value = typed ?? exactly ?? phrase.value;
  if (phrase.is === 'empty' || phrase.is === 'filled') return [[{ ...call, is: phrase.is }]];
  if (phrase.is !== undefined) return value === undefined ? [] : [[{ ...call, is: phrase.is, value }]];
  if (!compared) return [];
  const leaf = (test: SaidTest, is: NonNullable<SaidTest['is']>): Leaf | null => {
    if (!phrase.isBelow) return { ...call, is, value: test.value };
    return typeof test.value === 'number' ? { ...call, is: FLIPPED[is], value: -test.value } : null;
  };
  const [first] = compared.tests;
  const bare: readonly NonNullable<SaidTest['is']>[] =
    isAtLeast(phrase.measure) || phrase.isBelow ? ['>='] : ['>=', '<=', 'equals'];
  const ways = first!.is === null ? bare.map((is) => [leaf(first!, is)]) : [compared.tests.map((t) => leaf(t, t.is!))];
  const whole = ways.flatMap((leaves) => (leaves.every((l) => l !== null) ? [leaves] : []));
  return [...whole, ...whole.flatMap((leaves) => inPoints(leaves, compared, course))];
}

/** A bare number that is compared behind its noun: "2 essays or more". */
const withMore = (said: SaidComparison, is: NonNullable<SaidTest['is']>): SaidComparison => ({
  ...said,
  tests: said.tests.map((test) => (test.is === null ? { ...test, is } : test)),
});

/** A score without a unit: unless its item has 100 points, it may be meant in points. */
function inPoints(leaves: readonly Leaf[], { hasUnit }: SaidComparison, course: Course): readonly (readonly Leaf[])[] {
  const [{ measure, item }] = leaves as [Leaf];
  if (measure !== 'score' || hasUnit) return [];
  const points = course.items[course.itemIndex.get(item ?? '') ?? -1]?.points ?? null;
  const isPossible = leaves.every(({ value }) => typeof value === 'number' && points !== null && value <= points);
  return points === 100 || !isPossible ? [] : [leaves.map((leaf) => ({ ...leaf, measure: 'points' as const }))];
}

/** Leads that may stand before any clause, or be left out. */
const LEADS = word(
  ...['who', 'that', 'which', 'whose', 'have', 'has', 'had', 'having', 'are', 'is', 'were', 'was', 'been', 'be'],
  ...['did', 'do', 'does', 'with', 'got', 'get', 'their', 'they', 'ever'],
);

/** Phrases by a word, or by a slot, with which they can begin. */
const BY_WORD = new Map<string, CompiledPhrase[]>();
const BY_SLOT = new Map<string, CompiledPhrase[]>();
for (const phrase of PHRASES) {
  const { words: first, slot: start } = phrase.beginnings;
  for (const w of first) BY_WORD.set(w, [...(BY_WORD.get(w) ?? []), phrase]);
  if (start !== null) BY_SLOT.set(start, [...(BY_SLOT.get(start) ?? []), phrase]);
}

function phrasesAt(source: Source, at: number): readonly CompiledPhrase[] {
  const token = source.tokens[pastArticles(source, at)];
  const found = [...(BY_WORD.get(token?.text ?? '') ?? [])];
  for (const [start, phrases] of BY_SLOT) if (canBegin(start, source, at)) found.push(...phrases);
  return found;
}

function readClause(source: Source, at: number, phrases: typeof phrasesAt): readonly Reading<readonly Leaf[]>[] {
  const found: Reading<readonly Leaf[]>[] = [];
  for (let from = at; ;) {
    for (const phrase of phrases(source, from))
      for (const r of phrase.read(source, from))
        for (const leaves of meant(phrase, r.value, source.course)) found.push(reading(leaves, r.end, r.names, r.cost));
    const [lead] = LEADS(source, from);
    if (!lead) return found;
    from = lead.end;
  }
}

/** Every way to read a clause about a measure, its leads included. */
export const clause: Parser<readonly Leaf[]> = remembered('clause', (source, at) => readClause(source, at, phrasesAt));

/** Notes every word that a clause could go on with here. */
export const wantClause = (source: Source, at: number): void => {
  readClause(source, at, () => PHRASES);
};

/** The condition that two bounds of a range make, or one leaf. */
export const conditionOf = (leaves: readonly Leaf[]): Condition => (leaves.length === 1 ? leaves[0]! : { all: leaves });

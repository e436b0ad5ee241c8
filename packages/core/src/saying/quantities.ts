/** Numbers, units and comparisons as people type them ([Y2]). */
import type { Comparator, NumberOrMark } from '../measures/values/measure.ts';
import {
  either,
  map,
  optional,
  pastArticles,
  reading,
  remembered,
  spokenWords,
  then,
  want,
  word,
  words,
  type Parser,
  type Source,
} from './parsers.ts';
import { name } from './vocabulary.ts';

const SMALL = [
  ...['zero', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten', 'eleven', 'twelve'],
  ...['thirteen', 'fourteen', 'fifteen', 'sixteen', 'seventeen', 'eighteen', 'nineteen', 'twenty'],
];

for (const small of SMALL) spokenWords.add(small);

/** A number in digits, or up to twenty as a word. */
export const figure: Parser<number> = remembered('figure', (source, at) => {
  const token = source.tokens[at];
  if (token?.kind === 'number') return [reading(Number(token.text), at + 1)];
  const small = token?.kind === 'word' ? SMALL.indexOf(token.text) : -1;
  if (small >= 0) return [reading(small, at + 1)];
  want(source, at, '{number}');
  return [];
});

/** A whole number from 1 on. */
export const count: Parser<number> = map(figure, (n) => (Number.isInteger(n) && n >= 1 ? n : undefined));

/** Reads a unit, and gives how many of the slot's own unit it is. */
type Unit = Parser<number>;

const unit = (spoken: string, factor: number): Unit => map(words(spoken), () => factor);

const DAYS = remembered('days', either(unit('day|days', 1), unit('week|weeks', 7)));
const HOURS = either(unit('hour|hours', 1), unit('day|days', 24), unit('week|weeks', 168));
const PERCENT = unit('%|percent', 1);
const POINTS = unit('point|points', 1);
const TIMES = unit('time|times', 1);

interface Quantity {
  readonly value: NumberOrMark;
  readonly hasUnit: boolean;
}

/** A quantity in a unit: how its number and its unit are said, and whether the unit may be left out. */
interface UnitScale {
  readonly unit: Unit;
  readonly isOptional: boolean;
  /** Words for a number with its unit, such as “half”. */
  readonly whole: Parser<number>;
}

const none: Parser<number> = () => [];
const whole = (...said: readonly (readonly [string, number])[]): Parser<number> =>
  either(...said.map(([spoken, value]) => map(words(spoken), () => value)));

/** “a week” and “a day”: the article is the number. */
const aWeek: Parser<number> = (source, at) => {
  const [article, next] = [source.tokens[at], source.tokens[at + 1]];
  const isWeek = next?.text === 'week' || next?.text === 'day';
  return article?.text === 'a' && isWeek ? [reading(next.text === 'week' ? 7 : 1, at + 2)] : [];
};

export function scaleOf(spoken: string): UnitScale {
  switch (spoken) {
    case 'days':
      return { unit: DAYS, isOptional: false, whole: aWeek };
    case 'hours':
      return { unit: HOURS, isOptional: false, whole: map(aWeek, (days) => days * 24) };
    case '%':
      return { unit: PERCENT, isOptional: true, whole: whole(['half', 50]) };
    case 'points':
      return { unit: POINTS, isOptional: true, whole: none };
    case 'points!':
      return { unit: POINTS, isOptional: false, whole: none };
    case 'times':
      return { unit: TIMES, isOptional: true, whole: whole(['once', 1], ['twice', 2]) };
    case '':
      return { unit: () => [], isOptional: true, whole: none };
    default:
      return { unit: unit(spoken.replaceAll('_', ' '), 1), isOptional: false, whole: none };
  }
}

interface Amount {
  readonly value: NumberOrMark;
  /** Null where no unit is said. */
  readonly factor: number | null;
}

/** "the mastery score (80%)", "mastery score" */
const marked = (scale: UnitScale): Parser<Amount> => {
  const inside = then(
    then(word('('), figure, () => null),
    then(optional(scale.unit), word(')'), (f) => f),
    (_, f) => f,
  );
  return then(
    then(name('mark'), optional(word('score', 'mark')), (mark) => mark),
    optional(inside),
    (mark, factor) => ({ value: { mark }, factor }),
  );
};

const amount = (scale: UnitScale): Parser<Amount> =>
  either<Amount>(
    map(scale.whole, (value) => ({ value, factor: 1 })),
    then(figure, optional(scale.unit), (value, factor) => ({ value, factor })),
    then(marked(scale), optional(scale.unit), (said, factor) => ({ ...said, factor: factor ?? said.factor })),
  );

function ofAmount({ value, factor }: Amount, scale: UnitScale): Quantity | undefined {
  if (factor === null && !scale.isOptional) return undefined;
  const hasUnit = factor !== null;
  if (typeof value === 'number') return { value: value * (factor ?? 1), hasUnit };
  return (factor ?? 1) === 1 ? { value, hasUnit } : undefined;
}

/** A quantity and nothing that compares it. */
export const quantity = (spoken: string): Parser<NumberOrMark> => {
  const scale = scaleOf(spoken);
  return map(amount(scale), (said) => ofAmount(said, scale)?.value);
};

export interface SaidTest {
  /** Null where only a number is said. */
  readonly is: Exclude<Comparator, 'contains' | 'empty' | 'filled'> | null;
  readonly value: NumberOrMark;
}

export interface SaidComparison {
  /** Two for a range. */
  readonly tests: readonly SaidTest[];
  readonly hasUnit: boolean;
}

type Compared = NonNullable<SaidTest['is']>;
const said = (is: Compared, ...spoken: readonly string[]): Parser<Compared> =>
  either(...spoken.map((w) => map(words(w), () => is)));

const BEFORE: Parser<Compared> = remembered(
  'before',
  either(
    said('<', 'under', 'below', 'less|fewer|lower than', '<'),
    said('<=', 'at most', 'up to', 'no|not more|higher than', '≤', '< ='),
    said('>', 'over', 'above', 'more|higher|greater than', '>'),
    said('>=', 'at least', 'no|not less|fewer than', '≥', '> ='),
    said('equals', 'exactly', 'just', '='),
    said('differs', 'anything but'),
  ),
);

const behind: Parser<Compared> = remembered(
  'behind',
  either(
    said('>=', 'or more|higher|above|over|longer', 'and more|up|above', '+'),
    said('<=', 'or less|fewer|lower|below|under'),
  ),
);

/** A comparison behind its number: "or more". "2 essays or under 60%" has none. */
export const BEHIND: Parser<Compared> = (source, at) =>
  behind(source, at).filter((r) => figure(source, r.end).length === 0);

/** A comparison with a number in this unit: "under 5", "5 or more", "between 5 and 9". */
export function comparison(spoken: string): Parser<SaidComparison> {
  const scale = scaleOf(spoken);
  const one = amount(scale);
  const compared = (is: SaidTest['is'], amountSaid: Amount): SaidComparison | undefined => {
    const ready = ofAmount(amountSaid, scale);
    return ready && { tests: [{ is, value: ready.value }], hasUnit: ready.hasUnit };
  };
  const range = (low: Amount, high: Amount): SaidComparison | undefined => {
    const factor = high.factor ?? low.factor;
    const [from, to] = [low, high].map((a) => ofAmount({ ...a, factor: a.factor ?? factor }, scale));
    if (!from || !to) return undefined;
    return {
      tests: [
        { is: '>=', value: from.value },
        { is: '<=', value: to.value },
      ],
      hasUnit: to.hasUnit,
    };
  };
  const lateUnit: Parser<SaidComparison> = then(
    then(
      either<Amount>(
        map(figure, (value) => ({ value, factor: null })),
        marked(scale),
      ),
      BEHIND,
      (a, is) => ({ ...a, is }),
    ),
    scale.unit,
    ({ value, is }, factor) => compared(is, { value, factor }),
  );
  return remembered(
    `comparison ${spoken}`,
    either<SaidComparison>(
      then(BEFORE, one, compared),
      lateUnit,
      then(one, BEHIND, (a, is) => compared(is, a)),
      map(one, (a) => compared(null, a)),
      then(
        then(word('between'), one, (_, a) => a),
        then(word('and'), one, (_, a) => a),
        range,
      ),
      then(
        one,
        then(word('to', '-', '–', '—'), one, (_, a) => a),
        range,
      ),
    ),
  );
}

/** Whether a comparison may begin here. */
export const canCompare = (source: Source, at: number): boolean => beginning(source, at).length > 0;

const beginning: Parser<unknown> = remembered(
  'beginning',
  either<unknown>(figure, BEFORE, word('between', 'half', 'once', 'twice', 'a'), name('mark')),
);

/** Whole days: "5 days", "a week", "2 weeks". */
export const wholeDays: Parser<number> = map(quantity('days'), (n) =>
  typeof n === 'number' && Number.isInteger(n) ? n : undefined,
);

/** Days, hours, or both: "2 days and 3 hours". */
export const duration: Parser<{ readonly days: number; readonly hours: number }> = (() => {
  const hours = then(figure, word('hour', 'hours'), (n) => n);
  return either(
    then(
      wholeDays,
      then(optional(word('and')), hours, (_, n) => n),
      (d, h) => ({ days: d, hours: h }),
    ),
    map(wholeDays, (days) => ({ days, hours: 0 })),
    map(hours, (n) => ({ days: 0, hours: n })),
  );
})();

/** A text in quotation marks. */
export const quotedText: Parser<string> = (source, at) => {
  const token = source.tokens[at];
  return token?.kind === 'quoted' ? [reading(token.text.trim(), at + 1)] : [];
};

/** The same, or, farther from what is printed, one word. */
export const text: Parser<string> = (source, start) => {
  const at = pastArticles(source, start);
  const token = source.tokens[at];
  if (token?.kind !== 'word') return quotedText(source, at);
  return [reading(source.typed.slice(token.from, token.to), at + 1, [], 2)];
};

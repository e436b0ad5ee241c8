/** What a measure may be compared with, and what its parameters may be. */
import { LONGEST_DAYS, LONGEST_HOURS } from '../../time/duration.ts';
import { numberFrom, type Range } from '../../problem/range.ts';
import type { Measure, MeasureUnit } from './measure.ts';

/** More than any count of a term is. */
const MOST_COUNTED = 1_000_000;

export const PERCENT_RANGE: Range = numberFrom(0, 1000);

const OF_UNIT: Readonly<Record<MeasureUnit, Range | null>> = {
  // A threshold between two days or counts is as good as the next one: only their values are whole.
  days: numberFrom(0, LONGEST_DAYS),
  hours: numberFrom(-LONGEST_HOURS, LONGEST_HOURS),
  count: numberFrom(0, MOST_COUNTED),
  percent: PERCENT_RANGE,
  points: numberFrom(null, null),
  yesNo: null,
  text: null,
};

/** Null for what is compared with a text, or with yes and no. */
export const rangeOf = ({ range, unit }: Pick<Measure, 'range' | 'unit'>): Range | null => range ?? OF_UNIT[unit];

/** Whether all its values are whole numbers. */
export const isWhole = (unit: MeasureUnit): boolean => unit === 'days' || unit === 'count';

/** What one number of a rule does: the rule replayed with each of several values, told in a few figures. */
import type { Facts } from '../measures/facts.ts';
import { within, type InParts, type ReplaySpan } from '../rounds/replay.ts';
import { withNumbers, type RuleNumber } from '../rules/numbers.ts';
import type { Rule } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import { replayedBy, replayedInParts } from './replayed.ts';

export interface VariedReplay {
  readonly value: number;
  /** Sent or waiting. */
  readonly nudges: number;
  readonly reached: number;
  /** Median of the whole days from the start of a spell to its first nudge; null without a nudge. */
  readonly notice: number | null;
}

export interface Varying {
  /** Every rule that is replayed; one of them is varied. */
  readonly rules: readonly Rule[];
  readonly rule: Rule;
  readonly path: RuleNumber['path'];
  readonly values: readonly number[];
}

/** A result is told with `tell` as soon as it is there. */
export function* variedReplayInParts(
  { rules, rule, path, values }: Varying,
  facts: Facts,
  span: ReplaySpan & { readonly until: Instant },
  tell: (result: VariedReplay) => void = () => undefined,
): InParts<VariedReplay[]> {
  const results: VariedReplay[] = [];
  for (const [i, value] of values.entries()) {
    const other = withNumbers(rule, facts.course, new Map([[path, value]]));
    const all = rules.map((r) => (r.id === rule.id ? other : r));
    const work = replayedInParts(all, facts, span);
    const seen = yield* within(work, i / values.length, (i + 1) / values.length);
    const { nudges, held, reached, notice } = replayedBy(rule.id, seen, facts.course.calendar);
    const result = { value, nudges: nudges + held, reached, notice: notice?.median ?? null };
    results.push(result);
    tell(result);
    yield (i + 1) / values.length;
  }
  return results;
}

/** A threshold of days is tried from `fewest` to 14; any other number in steps around what it is. */
export function valuesToTry(n: Pick<RuleNumber, 'value' | 'unit' | 'min' | 'max'>, fewest = 3): number[] {
  const isDays = n.unit === 'days' && n.value >= fewest && n.value <= MOST_DAYS;
  const step = n.unit === 'percent' ? 5 : n.unit === 'hours' ? 12 : 1;
  const from = isDays ? fewest : n.value - 6 * step;
  const count = isDays ? MOST_DAYS - fewest + 1 : 13;
  return Array.from({ length: count }, (_, i) => from + i * step).filter(
    (v) => v >= (n.min ?? -Infinity) && v <= (n.max ?? Infinity),
  );
}

const MOST_DAYS = 14;

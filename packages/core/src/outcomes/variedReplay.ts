/** What one number of a rule does: the rule replayed with each of several values, told in a few figures. */
import type { Facts } from '../measures/facts/facts.ts';
import type { Decision } from '../rounds/decide/decision.ts';
import { nudgesInParts, type ReplaySpan } from '../rounds/whatIf/replay.ts';
import { within, type WorkInParts } from '../time/inParts.ts';
import { outOfRange } from '../problem/range.ts';
import { withNumbers, type RuleNumber } from '../rules/numbers.ts';
import type { Rule } from '../rules/rule.ts';
import type { CourseCalendar } from '../time/calendar.ts';
import { quartilesOf } from './quartiles.ts';
import { isNudge, noticesOf } from './replayed.ts';

export interface VariedReplay {
  readonly value: number;
  /** Sent or waiting. */
  readonly nudges: number;
  readonly reached: number;
  /** Median of the whole days from the start of a spell to its first nudge; null without a nudge. */
  readonly notice: number | null;
}

export interface RuleVariation {
  /** Every rule that is replayed; one of them is varied. */
  readonly rules: readonly Rule[];
  readonly rule: Rule;
  readonly path: RuleNumber['path'];
  readonly values: readonly number[];
}

/** A result is told with `tell` as soon as it is there. */
export function* variedReplayInParts(
  { rules, rule, path, values }: RuleVariation,
  facts: Facts,
  span: ReplaySpan,
  tell: (result: VariedReplay) => void = () => undefined,
): WorkInParts<VariedReplay[]> {
  const results: VariedReplay[] = [];
  for (const [i, value] of values.entries()) {
    const other = withNumbers(rule, facts.course, new Map([[path, value]]));
    const all = rules.map((r) => (r.id === rule.id ? other : r));
    const decisions = yield* within(nudgesInParts(all, facts, span), i / values.length, (i + 1) / values.length);
    const result = { value, ...figuresOf(decisions, rule.id, facts.course.calendar) };
    results.push(result);
    tell(result);
    yield (i + 1) / values.length;
  }
  return results;
}

function figuresOf(
  decisions: readonly Decision[],
  rule: string,
  calendar: CourseCalendar,
): Omit<VariedReplay, 'value'> {
  const byStudent = new Map<string, Decision[]>();
  for (const d of decisions) {
    if (d.rule !== rule || !isNudge(d)) continue;
    const own = byStudent.get(d.student);
    if (own) own.push(d);
    else byStudent.set(d.student, [d]);
  }
  const all = [...byStudent.values()];
  const notices = all.flatMap((nudges) => noticesOf(nudges, calendar)).sort((a, b) => a - b);
  return {
    nudges: all.reduce((n, nudges) => n + nudges.length, 0),
    reached: all.length,
    notice: quartilesOf(notices)?.median ?? null,
  };
}

/** A threshold of days is tried from `fewest` to 14; any other number in steps around what it is. */
export function valuesToTry(n: Pick<RuleNumber, 'value' | 'unit' | 'range'>, fewest = 3): number[] {
  const isDays = n.unit === 'days' && n.value >= fewest && n.value <= MOST_DAYS;
  const step = n.unit === 'percent' ? 5 : n.unit === 'hours' ? 12 : 1;
  const from = isDays ? fewest : n.value - 6 * step;
  const count = isDays ? MOST_DAYS - fewest + 1 : 13;
  return Array.from({ length: count }, (_, i) => from + i * step).filter((v) => outOfRange(v, n.range) === null);
}

const MOST_DAYS = 14;

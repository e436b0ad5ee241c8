/** What came of the nudges that were sent, by rule, by step, by wording or by text: counts, shares and time to return. */
import type { Instant } from '../time/instant.ts';
import { textResults, type SentText, type TextResult } from './textResults.ts';
import {
  comparisonOf,
  timeToReturn,
  type Comparison,
  type ReturnClock,
  type TimeToReturn,
  type ReturnObservations,
  type WithheldSpell,
} from './timeToReturn.ts';

/** What nudges may be told apart by. */
export const CAME_BY = ['rule', 'step', 'wording', 'text'] as const;
export type ReturnAct = (typeof CAME_BY)[number];

/** One nudge that reached its student, and what came of it. */
export interface SentOutcome extends SentText {
  /** Null for a nudge by hand. */
  readonly rule: string | null;
  readonly step: number;
  readonly wording: string;
  readonly student: string;
  /** The student's act that ends what the rule found, whenever it was; null for none. */
  readonly act: Instant | null;
}

export interface CameLine {
  /** What its nudges share; null for what they are not told apart by, and for a rule where there was none. */
  readonly rule: string | null;
  readonly step: number | null;
  readonly wording: string | null;
  readonly text: number | null;
  readonly result: TextResult;
  readonly time: TimeToReturn;
  /** Of rules alone. */
  readonly comparison: Comparison | null;
}

/** A line for each, in the order in which the first nudges of each went; steps and texts stand together, in theirs. */
export function cameOfIt(
  sent: readonly SentOutcome[],
  by: ReturnAct,
  known: ReturnObservations,
  withheld: ReadonlyMap<string, readonly WithheldSpell[]>,
): CameLine[] {
  const groups = new Map<string, SentOutcome[]>();
  for (const one of sent) {
    const key = JSON.stringify(sharedOf(one, by));
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  // Of one rule or wording, steps and texts follow each other in their own order.
  const isOfWording = by === 'wording' || by === 'text';
  const wholeOf = ([first]: readonly SentOutcome[]) => (isOfWording ? first!.wording : first!.rule);
  const within = ([first]: readonly SentOutcome[]) =>
    by === 'text' ? first!.variant : by === 'step' ? first!.step : 0;
  const wholes = [...new Set([...groups.values()].map(wholeOf))];
  const ordered = [...groups.values()].sort(
    (a, b) => wholes.indexOf(wholeOf(a)) - wholes.indexOf(wholeOf(b)) || within(a) - within(b),
  );
  return ordered.map((group): CameLine => {
    const shared = sharedOf(group[0]!, by);
    const clocks = group
      .filter((s) => s.canReturn)
      .map((s): ReturnClock => ({ student: s.student, start: s.sentAt, act: s.act }));
    const spells = by === 'rule' && shared.rule !== null ? (withheld.get(shared.rule) ?? []) : null;
    return {
      ...shared,
      result: textResults(group, 1, known.asOf).all,
      time: timeToReturn(clocks, known),
      comparison: spells && comparisonOf(spells, known),
    };
  });
}

const sharedOf = (s: SentOutcome, by: ReturnAct): Pick<CameLine, 'rule' | 'step' | 'wording' | 'text'> => ({
  rule: by === 'rule' || by === 'step' ? s.rule : null,
  step: by === 'step' ? s.step : null,
  wording: by === 'wording' || by === 'text' ? s.wording : null,
  text: by === 'text' ? s.variant : null,
});

/** What became of the term: every rule with what it sent, the outcome, what limits held back, and how well it found worried-about students. */
import type { Facts } from '../measures/facts/facts.ts';
import { hindsightInParts, type Hindsight } from '../outcomes/hindsight.ts';
import { valuesToTry } from '../outcomes/variedReplay.ts';
import { numbersOf, withNumbers } from '../rules/numbers.ts';
import type { Rule } from '../rules/rule.ts';
import { within, type WorkInParts } from '../time/inParts.ts';
import { changesToMake } from './changes.ts';
import type { OtherNumber, RuleHindsight, TermOrder, TermReport } from './reportData.ts';

/** Reads hindsight for each rule, then puts the page together. */
export function* termReportInParts(order: TermOrder, facts: Facts): WorkInParts<TermReport> {
  const { rules, outcome, at, log, isBrief = false } = order;
  const found = new Set<string>();
  let first: Hindsight | null = null;
  const hindsights: RuleHindsight[] = [];
  for (const [i, rule] of rules.entries()) {
    const share = (part: number) => (i + part) / rules.length;
    const seen = yield* within(hindsightInParts(rule, outcome, facts, { at }), share(0), share(0.3));
    for (const s of seen.students) if (s.found !== null) found.add(s.student);
    first ??= seen;
    const other = isBrief ? null : yield* within(otherNumberOf(rule, order, facts, seen), share(0.3), share(1));
    hindsights.push({ rule: rule.id, counts: seen.counts, other });
  }
  const everybody = first?.students ?? [];
  const worried = everybody.filter((s) => s.outcome);
  const byRule = new Map(hindsights.map((h) => [h.rule, h]));
  const report: Omit<TermReport, 'changes'> = {
    at,
    students: everybody.length + (first?.unknown ?? 0),
    known: everybody.length,
    worried: worried.length,
    missedByAll: worried.filter((s) => !found.has(s.student)).length,
    rules: log.map((l) => ({ ...l, hindsight: l.rule === null ? null : (byRule.get(l.rule) ?? null) })),
    texts: order.texts,
  };
  return { ...report, changes: changesToMake(report, outcome, facts.course) };
}

/** The value with the most found more than are found needlessly more, over its first number; the nearest of equal ones. */
function* otherNumberOf(
  rule: Rule,
  { outcome, at }: TermOrder,
  facts: Facts,
  { counts }: Hindsight,
): WorkInParts<OtherNumber | null> {
  const [number] = numbersOf(rule, facts.course).filter((n) => n.path.startsWith('when'));
  if (!number || counts.missed === 0) return null;
  const values = valuesToTry(number, 1).filter((v) => v !== number.value);
  let best: (OtherNumber & { readonly gain: number }) | null = null;
  for (const [i, value] of values.entries()) {
    const other = withNumbers(rule, facts.course, new Map([[number.path, value]]));
    const span: [number, number] = [i / values.length, (i + 1) / values.length];
    const seen = yield* within(hindsightInParts(other, outcome, facts, { at }), ...span);
    const gain = seen.counts.found - counts.found - Math.max(0, seen.counts.needless - counts.needless);
    const isNearer = best !== null && Math.abs(value - number.value) < Math.abs(best.other - number.value);
    if (gain <= 0 || (best !== null && (gain < best.gain || (gain === best.gain && !isNearer)))) continue;
    const { of, unit } = number;
    best = { of, unit, value: number.value, other: value, counts: seen.counts, gain };
  }
  if (best === null) return null;
  const { gain: _gain, ...other } = best;
  return other;
}

/** Decisions in short words: why somebody matched, why nobody was written to, how a round went. */
import type { LeafEvidence } from '@zest-bell/core/conditions';
import { ABSENCES } from '@zest-bell/core/measures';
import type { RuleStatus } from '@zest-bell/core/rules';
import { WITHHELD_WORDS, type Recipient, type WithheldReason } from '@zest-bell/core/rounds';
import { LOGGED_WORDS, type LoggedReason, type RoundSummary } from '@zest-bell/core/exchange';

export const withheldWords = (reason: WithheldReason): string => `held back: ${WITHHELD_WORDS[reason]}`;

const ENDED: readonly (readonly [string, readonly LeafEvidence['measure'][]])[] = [
  ['came back before it left', ABSENCES],
  ['the work was done before it left', ['missing', 'submitted']],
  ['the grade changed before it left', ['score', 'points', 'latestScore', 'courseGrade', 'groupGrade', 'lowScores']],
];

/** With the evidence of a nudge that no longer matched, what ended it, where that can have been one thing only. */
export function withdrawnWords(reason: LoggedReason, evidence: readonly LeafEvidence[] = []): string {
  const held = evidence.filter((e) => e.verdict === true);
  if (reason !== 'noLongerTrue' || held.length === 0) return LOGGED_WORDS[reason];
  const ended = ENDED.find(([, measures]) => held.every((e) => measures.includes(e.measure)));
  return ended?.[0] ?? LOGGED_WORDS[reason];
}

export const addressWords = (to: readonly (Partial<Recipient> & Pick<Recipient, 'name' | 'address'>)[]): string =>
  to.map((r) => (r.name ? `${r.name} <${r.address}>` : r.address)).join(', ');

/** What a rule is that is not on: only what was on can be paused. */
export function offWords(status: RuleStatus, wasOn: boolean): string {
  if (status === 'draft') return 'draft';
  return wasOn ? 'paused' : 'off';
}

/** "7 match, 1 nudged, 6 held back"; of a rule that only tells others, "7 match, others told about 7". */
export function roundWords(round: RoundSummary, tellsOthers = false): string {
  const heard = tellsOthers ? `others told about ${round.heard}` : `${round.heard} nudged`;
  const parts = [`${round.matched} ${round.matched === 1 ? 'matches' : 'match'}`, heard];
  if (round.held > 0) parts.push(`${round.held} waiting for you`);
  if (round.withheld > 0) parts.push(`${round.withheld} held back`);
  if (round.withdrawn > 0) parts.push(`${round.withdrawn} canceled`);
  return parts.join(', ');
}

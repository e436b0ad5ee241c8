/** Decisions in short words: why somebody matched, why nobody was written to, how a round went. */
import {
  CATALOGUE,
  factWords,
  valueWords,
  WITHHELD_WORDS,
  type LeafEvidence,
  type Recipient,
  type RoundSummary,
  type LoggedReason,
  type WithheldReason,
} from '@zest-bell/core';

/** "last visit Tue Oct 20, 9:14 PM · 5 days": the facts behind a verdict, each with its value where that says more. */
export function evidenceWords(evidence: readonly LeafEvidence[], zone: string): string {
  return evidence.map((e) => leafWords(e, zone)).join(' · ');
}

/** The fact behind one condition, with its value where that says more. */
export function leafWords(e: LeafEvidence, zone: string): string {
  const fact = factWords(e.fact, zone);
  if (typeof e.value !== 'number') return fact;
  const value = valueWords(
    e.value,
    CATALOGUE[e.measure].unit,
    typeof e.threshold === 'number' ? e.threshold : undefined,
  );
  switch (e.fact.kind) {
    case 'last':
      return CATALOGUE[e.measure].unit === 'days' ? `${fact} · ${value}` : fact;
    case 'score':
    case 'total':
      return `${value}, ${fact}`;
    default:
      return fact;
  }
}

export const withheldWords = (reason: WithheldReason): string => `held back: ${WITHHELD_WORDS[reason]}`;

const WITHDRAWN: Readonly<Record<LoggedReason, string>> = {
  noLongerTrue: 'came back before it left',
  ruleOff: 'the rule was turned off',
  inactive: 'no longer in the course',
  paused: 'paused by the student',
  noAddress: 'no email address',
  courseOver: 'the course is over',
  stopped: 'mail was stopped',
};
export const withdrawnWords = (reason: LoggedReason): string => WITHDRAWN[reason];

export const addressWords = (to: readonly (Partial<Recipient> & Pick<Recipient, 'name' | 'address'>)[]): string =>
  to.map((r) => (r.name ? `${r.name} <${r.address}>` : r.address)).join(', ');

/** "7 match, 1 nudged, 6 held back" */
export function roundWords(round: RoundSummary): string {
  const parts = [`${round.matched} ${round.matched === 1 ? 'matches' : 'match'}`, `${round.heard} nudged`];
  if (round.held > 0) parts.push(`${round.held} waiting for you`);
  if (round.withheld > 0) parts.push(`${round.withheld} held back`);
  if (round.withdrawn > 0) parts.push(`${round.withdrawn} canceled`);
  return parts.join(', ');
}

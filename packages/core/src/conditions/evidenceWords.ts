/** Evidence in short words: the fact behind each verdict, with its value where that says more. */
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { factWords } from '../measures/values/fact.ts';
import type { LeafEvidence } from './evidence.ts';
import { valueWords } from './sentence.ts';

/** "last visit Tue Oct 20, 9:14 PM · 5 days"; what two conditions share is said once. */
export const evidenceWords = (evidence: readonly LeafEvidence[], zone: string): string =>
  evidenceFacts(evidence, zone)
    .map((fact) => fact.exact)
    .join(' · ');

/** A fact in few words, by its day: "last visit Tue Oct 20 · 5 days"; and with the time of day. */
export interface EvidenceFact {
  readonly words: string;
  readonly exact: string;
}

/** What evidence says, fact by fact; what two conditions share is said once. */
export function evidenceFacts(evidence: readonly LeafEvidence[], zone: string): readonly EvidenceFact[] {
  const facts = new Map<string, EvidenceFact>();
  for (const e of evidence) {
    const exact = leafWords(e, zone);
    facts.set(exact, { words: leafWords(e, zone, true), exact });
  }
  return [...facts.values()];
}

/** The fact behind one condition, with its value where that says more. In brief, a grade is told without what it is made of. */
export function leafWords(e: LeafEvidence, zone: string, isBrief = false): string {
  const fact = factWords(e.fact, zone, isBrief);
  if (typeof e.value !== 'number') return fact;
  const value = valueWords(
    e.value,
    CATALOGUE[e.measure].unit,
    typeof e.threshold === 'number' ? e.threshold : undefined,
  );
  switch (e.fact.kind) {
    case 'last':
      return CATALOGUE[e.measure].unit === 'days' ? `${fact} · ${value}` : fact;
    case 'total':
      return isBrief ? `${CATALOGUE[e.measure].title.toLowerCase()} ${value}` : `${value}, ${fact}`;
    case 'score':
      return `${value}, ${fact}`;
    default:
      return fact;
  }
}

/** Evidence in short words: the fact behind each verdict, with its value where that says more. */
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { factWords } from '../measures/values/fact.ts';
import type { LeafEvidence } from './evidence.ts';
import { valueWords } from './sentence.ts';

/** "last visit Tue Oct 20, 9:14 PM · 5 days"; what two conditions share is said once. */
export function evidenceWords(evidence: readonly LeafEvidence[], zone: string): string {
  return [...new Set(evidence.map((e) => leafWords(e, zone)))].join(' · ');
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

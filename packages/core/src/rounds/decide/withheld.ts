/** Why a nudge is withheld: the limits in their order, and each in words. */
export const WITHHELD_REASONS = [
  'pending',
  'perSpell',
  'perTerm',
  'gap',
  'replied',
  'paused',
  'budget',
  'noAddress',
] as const;
export type WithheldReason = (typeof WITHHELD_REASONS)[number];

/** A limit in words, after "held back:". */
export const WITHHELD_WORDS: Readonly<Record<WithheldReason, string>> = {
  pending: 'a nudge is waiting',
  perSpell: 'already nudged this time',
  perTerm: 'this term’s limit reached',
  gap: 'nudged too recently',
  replied: 'replied to this rule',
  paused: 'paused by the student',
  budget: 'message budget used up',
  noAddress: 'no email address',
};

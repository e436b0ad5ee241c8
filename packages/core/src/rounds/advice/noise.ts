/** Whether the coming week brings too many messages, for the class or for one student. */

/** From three messages in a week on, one student gets many: common practice, no source. */
export const MANY_A_WEEK = 3;
/** A week is louder than usual from half again as many nudges on, and five more: common practice, no source. */
const LOUDER = 1.5;
const LOUDER_BY = 5;

export const NOISE_VERDICTS = ['silent', 'usual', 'louder', 'tooMany'] as const;
/** `tooMany`: for some student, whatever the class is used to. */
export type NoiseVerdict = (typeof NOISE_VERDICTS)[number];

export interface Noise {
  readonly verdict: NoiseVerdict;
  readonly nudges: number;
  /** Nudges a week so far; null while there was no whole week. */
  readonly usual: number | null;
  /** Whole weeks before it that this is counted from. */
  readonly weeks: number;
  /** Students with `MANY_A_WEEK` or more. */
  readonly many: readonly string[];
}

/** `coming` names the student of each nudge of the coming week; `past` counts those of whole weeks before it. */
export function noiseOf(coming: readonly string[], past: readonly number[]): Noise {
  const byStudent = new Map<string, number>();
  for (const student of coming) byStudent.set(student, (byStudent.get(student) ?? 0) + 1);
  const many = [...byStudent].filter(([, n]) => n >= MANY_A_WEEK).map(([student]) => student);
  const usual = past.length === 0 ? null : past.reduce((a, b) => a + b, 0) / past.length;
  const nudges = coming.length;
  const isLouder = usual !== null && nudges >= usual * LOUDER && nudges >= usual + LOUDER_BY;
  const verdict = nudges === 0 ? 'silent' : many.length > 0 ? 'tooMany' : isLouder ? 'louder' : 'usual';
  return { verdict, nudges, usual, weeks: past.length, many };
}

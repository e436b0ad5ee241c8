/** A nudge by hand names its mailing where others name a wording of the library. */
export const wordingKeyOf = (mailing: number): string => `mailing:${mailing}`;

/** The mailing that a wording's key names; null for a wording of the library. */
export function mailingOf(wording: string): number | null {
  const [, id] = /^mailing:(\d+)$/.exec(wording) ?? [];
  return id === undefined ? null : Number(id);
}

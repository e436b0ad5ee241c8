/**
 * Counts of people for anyone who may see nobody: nought to four is “fewer than 5”, also for the difference of two counts that are shown
 * together, so that nobody is told by subtraction (common practice of published statistics, no source).
 */
export const FEWEST = 5;

/** A count of people; null for fewer than five. */
export type SafeCount = number | null;

export const safeCount = (n: number): SafeCount => (n < FEWEST ? null : n);

/** A part of a whole that is shown beside it. */
export type SafeShare =
  | { readonly kind: 'exact'; readonly n: number; readonly of: number }
  /** Fewer than five of it. */
  | { readonly kind: 'few' }
  /** Of so few that either part would tell: neither part is five or more, whatever it is. */
  | { readonly kind: 'tooFew' }
  /** All of it but fewer than five. */
  | { readonly kind: 'allButFew' };

export function safeShare(n: number, of: number): SafeShare {
  if (of < 2 * FEWEST) return { kind: 'tooFew' };
  if (n < FEWEST) return { kind: 'few' };
  return of - n < FEWEST ? { kind: 'allButFew' } : { kind: 'exact', n, of };
}

/** A share of what is itself only a share: not shown where that is not exact, as its whole would tell it. */
export const shareOfShare = (n: number, whole: SafeShare): SafeShare =>
  whole.kind === 'exact' ? safeShare(n, whole.n) : { kind: 'tooFew' };

export interface GroupSize {
  readonly name: string;
  readonly n: number;
}

/** Groups that make up a whole: those of fewer than five stand together, with as many of the next smallest as it takes to be five. */
export function safeGroups(
  groups: readonly GroupSize[],
): { readonly names: readonly string[]; readonly n: SafeCount }[] {
  const bySize = groups.toSorted((a, b) => a.n - b.n);
  const small = bySize.filter((g) => g.n < FEWEST);
  const sizeOf = () => small.reduce((sum, g) => sum + g.n, 0);
  for (const next of bySize.slice(small.length)) {
    if (small.length === 0 || sizeOf() >= FEWEST) break;
    small.push(next);
  }
  const alone = groups.filter((g) => !small.includes(g)).map((g) => ({ names: [g.name], n: g.n }));
  return small.length === 0 ? alone : [...alone, { names: small.map((g) => g.name), n: safeCount(sizeOf()) }];
}

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { FEWEST, safeCount, safeGroups, safeShare, shareOfShare } from './fewerThan.ts';

describe('counts for whoever may see nobody', () => {
  test('nought to four is fewer than five', () => {
    expect([0, 1, 4, 5, 40].map(safeCount)).toEqual([null, null, null, 5, 40]);
  });

  test('a share tells neither a small part nor a small rest', () => {
    fc.assert(
      fc.property(fc.nat(60), fc.nat(60), (n, more) => {
        const share = safeShare(n, n + more);
        if (share.kind === 'exact') expect([share.n >= FEWEST, share.of - share.n >= FEWEST]).toEqual([true, true]);
        else expect(n < FEWEST || more < FEWEST).toBe(true);
      }),
    );
    // Five of five told would be all of them by name.
    expect([safeShare(5, 5), safeShare(4, 9)]).toEqual([{ kind: 'tooFew' }, { kind: 'tooFew' }]);
    expect(safeShare(38, 40)).toEqual({ kind: 'allButFew' });
    expect(shareOfShare(20, safeShare(38, 40))).toEqual({ kind: 'tooFew' });
    expect(shareOfShare(12, safeShare(20, 40))).toEqual({ kind: 'exact', n: 12, of: 20 });
  });

  test('groups keep everybody, and none that is shown is small unless all are', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(12), { maxLength: 8 }), (sizes) => {
        const groups = sizes.map((n, i) => ({ name: `s${i}`, n }));
        const shown = safeGroups(groups);
        expect(shown.flatMap((g) => g.names).toSorted()).toEqual(groups.map((g) => g.name).toSorted());
        const total = sizes.reduce((a, b) => a + b, 0);
        if (total >= FEWEST) {
          expect(shown.every((g) => g.n !== null && g.n >= FEWEST)).toBe(true);
          expect(shown.reduce((sum, g) => sum + g.n!, 0)).toBe(total);
        } else expect(shown.every((g) => g.n === null)).toBe(true);
      }),
    );
  });
});

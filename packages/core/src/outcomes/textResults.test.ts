import { describe, expect, test } from '@jest/globals';
import { DAY } from '../time/instant.ts';
import { differenceOf, wilson } from './proportion.ts';
import { quantile } from './quantile.ts';
import { FEWEST, textResults, type SentText } from './textResults.ts';

describe('shares of small numbers', () => {
  // Newcombe (1998a), table I, method 3; values from memory.
  test.each([
    [81, 263, 0.2553, 0.3662],
    [15, 148, 0.0624, 0.1605],
    [0, 20, 0, 0.1611],
    [1, 29, 0.0061, 0.1718],
  ])('%i of %i', (count, total, low, high) => {
    const interval = wilson(count, total);
    expect(interval.low).toBeCloseTo(low, 4);
    expect(interval.high).toBeCloseTo(high, 4);
  });

  // Newcombe (1998b), table II, method 10; values from memory.
  test.each([
    [56, 70, 48, 80, 0.0524, 0.3339],
    [9, 10, 3, 10, 0.1705, 0.809],
    [10, 10, 0, 10, 0.6075, 1],
  ])('%i of %i less %i of %i', (a, m, b, n, low, high) => {
    const interval = differenceOf(wilson(a, m), wilson(b, n));
    expect(interval.low).toBeCloseTo(low, 4);
    expect(interval.high).toBeCloseTo(high, 4);
  });

  test('of nothing may be anything, and a share over one is refused', () => {
    expect(wilson(0, 0)).toMatchObject({ low: 0, high: 1 });
    expect(() => wilson(3, 2)).toThrow(RangeError);
  });

  // Critical values of the standard normal distribution, as the NIST/SEMATECH e-Handbook, 1.3.6.7.1, gives them; from memory.
  test.each([
    [0.9, 1.281552],
    [0.975, 1.959964],
    [0.99, 2.326348],
    [0.995, 2.575829],
  ])('use the normal quantile of %d', (p, z) => {
    expect(quantile(p)).toBeCloseTo(z, 6);
  });
});

describe('what came of a wording', () => {
  const NOW = 100 * DAY;
  const sent = (variant: number, n: number, more: Partial<SentText> = {}): SentText[] =>
    Array.from({ length: n }, () => ({
      variant,
      sentAt: NOW - 20 * DAY,
      canReturn: true,
      returned: false,
      replied: false,
      ...more,
    }));

  test('is counted of nudges that are two weeks old, for who came back early is not yet all who will', () => {
    const soon = { sentAt: NOW - 14 * DAY + 1, returned: true };
    const fresh = [...sent(0, 2, soon), ...sent(0, 1, { ...soon, replied: true })];
    const { all } = textResults([...sent(0, 4, { returned: true }), ...sent(0, 6), ...fresh], 1, NOW);
    expect(all).toMatchObject({
      sent: 13,
      open: 3,
      openBack: 3,
      openReplied: 1,
      returns: { count: 4, of: 10 },
      replies: { count: 0, of: 10 },
    });
  });

  test('[R13] has no returns where no act of a student could be one', () => {
    const { all } = textResults(sent(0, 5, { canReturn: false, replied: true }), 1, NOW);
    expect(all.returns).toBeNull();
    expect(all.replies).toMatchObject({ count: 5, of: 5 });
  });

  test('tells one text from another only when chance would seldom do it', () => {
    const results = (a: number, b: number, n: number) =>
      textResults(
        [...sent(0, a, { returned: true }), ...sent(0, n - a), ...sent(1, b, { returned: true }), ...sent(1, n - b)],
        2,
        NOW,
      ).better;
    expect(results(18, 6, 20)).toEqual({ what: 'returns', better: 0, worse: 1 });
    expect(results(12, 9, 20)).toBeNull();
    expect(results(FEWEST - 1, 0, FEWEST - 1)).toBeNull();
  });
});

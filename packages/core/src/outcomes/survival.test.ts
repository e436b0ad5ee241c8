import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { runs } from '../testing/runs.ts';
import { medianOf, survivalCurve, type ObservedSpan } from './survival.ts';

/**
 * Remission times in weeks under 6-mercaptopurine and under placebo. Source: E. J. Freireich et al., Blood 21 (1963), 699–716;
 * the times and the estimates, which textbooks of survival analysis print to three decimals, are from memory.
 */
const TREATED: readonly ObservedSpan[] = [
  ...[6, 6, 6, 7, 10, 13, 16, 22, 23].map((days) => ({ days, act: true })),
  ...[6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35].map((days) => ({ days, act: false })),
];
const PLACEBO: readonly ObservedSpan[] = [1, 1, 2, 2, 3, 4, 4, 5, 5, 8, 8, 8, 8, 11, 11, 12, 12, 15, 17, 22, 23].map(
  (days) => ({ days, act: true }),
);

describe('time until something happens', () => {
  test('[O2] is Kaplan and Meier’s estimate on Freireich’s remission times', () => {
    const curve = survivalCurve(TREATED);
    expect(curve.map((p) => [p.days, p.atRisk, p.acts, Math.round(p.survival * 1000) / 1000])).toEqual([
      [6, 21, 3, 0.857],
      [7, 17, 1, 0.807],
      [10, 15, 1, 0.753],
      [13, 12, 1, 0.69],
      [16, 11, 1, 0.627],
      [22, 7, 1, 0.538],
      [23, 6, 1, 0.448],
    ]);
    expect(medianOf(curve)).toBe(23);
    expect(medianOf(survivalCurve(PLACEBO))).toBe(8);
  });

  test('[O2] the band is Greenwood’s on the scale log(−log S)', () => {
    // One act of twelve at risk: S = 11/12, the bounds worked out by hand.
    const [point] = survivalCurve([
      { days: 1.25, act: true },
      ...new Array<ObservedSpan>(11).fill({ days: 9, act: false }),
    ]);
    expect(point!.survival).toBeCloseTo(11 / 12, 12);
    expect(point!.low).toBeCloseTo(0.539, 3);
    expect(point!.high).toBeCloseTo(0.9878, 4);
  });

  test('[O2] where everybody has acted the band is zero itself; with nobody there is no curve', () => {
    expect(survivalCurve([{ days: 2, act: true }])).toEqual([
      { days: 2, atRisk: 1, acts: 1, survival: 0, low: 0, high: 0 },
    ]);
    expect(survivalCurve([])).toEqual([]);
    expect(survivalCurve([{ days: 2, act: false }])).toEqual([]);
    expect(medianOf([])).toBeNull();
  });

  test('[O2] without censoring it is the share that is left, and at equal times acts come first', () => {
    const times = fc.array(fc.integer({ min: 0, max: 12 }), { minLength: 1, maxLength: 30 });
    fc.assert(
      fc.property(times, (days) => {
        for (const p of survivalCurve(days.map((d) => ({ days: d, act: true })))) {
          expect(p.survival).toBeCloseTo(days.filter((d) => d > p.days).length / days.length, 9);
          expect(p.low).toBeLessThanOrEqual(p.survival + 1e-12);
          expect(p.high).toBeGreaterThanOrEqual(p.survival - 1e-12);
        }
      }),
      runs(41, 60),
    );
    expect(
      survivalCurve([
        { days: 3, act: false },
        { days: 3, act: true },
      ]),
    ).toMatchObject([{ atRisk: 2, survival: 0.5 }]);
  });
});

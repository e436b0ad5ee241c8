import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { runs } from '../testing/runs.ts';
import {
  drawTexts,
  neededFor,
  reachable,
  studentsNeeded,
  TRIAL_POINTS,
  trialStanding,
  trialResult,
  type TrialNudge,
} from './fairTrial.ts';

describe('[O5] a fair trial', () => {
  test('draws by lot in blocks of two a text: after each block the texts are level, and a seed draws the same again', () => {
    fc.assert(
      fc.property(
        fc.string(),
        fc.integer({ min: 2, max: 5 }),
        fc.integer({ min: 1, max: 60 }),
        (seed, texts, count) => {
          const drawn = drawTexts(seed, texts, count);
          expect(drawn).toHaveLength(count);
          expect(drawTexts(seed, texts, count + 7).slice(0, count)).toEqual(drawn);
          const whole = drawn.slice(0, count - (count % (2 * texts)));
          const counts = Array.from({ length: texts }, (_, t) => whole.filter((d) => d === t).length);
          expect(new Set(counts).size).toBe(1);
        },
      ),
      runs(51, 80),
    );
    expect(() => drawTexts('x', 1, 4)).toThrow(RangeError);
  });

  test('over many seeds either text comes first about as often', () => {
    const first = Array.from({ length: 2000 }, (_, i) => drawTexts(`course ${i}`, 2, 1)[0]!);
    const share = first.filter((t) => t === 0).length / first.length;
    // Four standard errors of a fair coin over 2,000.
    expect(Math.abs(share - 0.5)).toBeLessThan(0.045);
  });

  const nudges = (text: number, returned: number, of: number, open = 0): TrialNudge[] => [
    ...Array.from({ length: of }, (_, i) => ({ text, returned: i < returned, over: true })),
    ...new Array<TrialNudge>(open).fill({ text, returned: false, over: false }),
  ];

  test('counts whoever came back or whose two weeks are over, and tells the others apart', () => {
    const early: TrialNudge = { text: 0, returned: true, over: false };
    const result = trialResult([...nudges(0, 3, 8, 2), early, ...nudges(1, 4, 9)], 2);
    expect(result.texts).toMatchObject([
      { count: 4, of: 9 },
      { count: 4, of: 9 },
    ]);
    expect(result.open).toEqual([2, 0]);
    expect(result.pairs).toMatchObject([{ a: 0, b: 1, difference: { value: 0 }, differ: false }]);
  });

  /** Newcombe (1998), Table II, method 10: 56/70 against 48/80 is 0.0524 to 0.3339; from memory. */
  test('differs when Newcombe’s interval leaves out zero', () => {
    const [pair] = trialResult([...nudges(0, 56, 70), ...nudges(1, 48, 80)], 2).pairs;
    expect(pair!.difference!.low).toBeCloseTo(0.0524, 3);
    expect(pair!.difference!.high).toBeCloseTo(0.3339, 3);
    expect(pair!.differ).toBe(true);
    expect(trialResult([...nudges(0, 5, 9), ...nudges(1, 3, 9)], 2).pairs[0]!.differ).toBe(false);
  });

  test('of several texts each pair is asked at its share of the 5%, and nobody is compared with nobody', () => {
    const three = trialResult([...nudges(0, 56, 70), ...nudges(1, 48, 80), ...nudges(2, 0, 0)], 3);
    expect(three.pairs.map((p) => [p.a, p.b, p.difference === null])).toEqual([
      [0, 1, false],
      [0, 2, true],
      [1, 2, true],
    ]);
    const [alone] = trialResult([...nudges(0, 56, 70), ...nudges(1, 48, 80)], 2).pairs;
    expect(three.pairs[0]!.difference!.low).toBeLessThan(alone!.difference!.low);
  });

  /** Textbook sizes a group for 80% power at 5%, without a correction for continuity: 93 for 50% and 70%; from memory. */
  test('says how many students a difference needs', () => {
    expect(studentsNeeded(0.5, 0.7)).toBe(93);
    expect(studentsNeeded(0.7, 0.5)).toBe(93);
    expect(studentsNeeded(0.5, 0.6)).toBeGreaterThan(studentsNeeded(0.5, 0.8));
    expect(() => studentsNeeded(0.5, 0.5)).toThrow(RangeError);
    expect(() => studentsNeeded(-0.1, 0.5)).toThrow(RangeError);
  });

  test('says it for points above today’s share, or below where there is no room above', () => {
    expect(neededFor(0.5, 20)).toBe(93);
    expect(neededFor(0.9, 20)).toBe(studentsNeeded(0.9, 0.7));
    expect(neededFor(0.7, 30)).toBe(studentsNeeded(0.7, 1));
  });

  test('offers no difference that cannot be reached', () => {
    expect(reachable(0.5)).toEqual(TRIAL_POINTS);
    expect(reachable(0.8)).toEqual([10, 20]);
    expect(reachable(0.9)).toEqual([10]);
    expect(reachable(0.94)).toEqual([]);
  });

  test('a look is an interim one until each text has had its students, or the end left nothing open', () => {
    const half = trialResult([...nudges(0, 5, 10), ...nudges(1, 5, 9)], 2);
    expect(trialStanding(half, { needed: 10, ended: false })).toBe('interim');
    expect(trialStanding(half, { needed: 9, ended: false })).toBe('done');
    expect(trialStanding(half, { needed: 10, ended: true })).toBe('done');
    const open = trialResult([...nudges(0, 5, 10), ...nudges(1, 5, 8, 1)], 2);
    expect(trialStanding(open, { needed: 10, ended: true })).toBe('interim');
  });
});

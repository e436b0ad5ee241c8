import { describe, expect, test } from '@jest/globals';
import { FEWEST, type TrialPair } from '@zest-bell/core/outcomes';
import { pairWords, standingWords } from './trialWords.ts';

const of = (n: number, m = n) =>
  ({ needed: 100, texts: [{ of: n }, { of: m }] }) as unknown as Parameters<typeof pairWords>[0];
const pair = (value: number, low: number, high: number, differ: boolean): TrialPair => ({
  a: 0,
  b: 1,
  difference: { value, low, high },
  differ,
});

describe('a fair trial', () => {
  test('says nothing of a pair of which too few are known', () => {
    expect(pairWords(of(FEWEST - 1), pair(0.5, 0.1, 0.9, false))).toBe('Text 1 and text 2: too few to tell.');
    expect(pairWords(of(50), { a: 0, b: 1, difference: null, differ: false })).toMatch(/too few to tell\.$/);
  });

  test('names the better text, whichever it is, and how much better it likely is', () => {
    expect(pairWords(of(200), pair(0.2, 0.05, 0.35, true))).toMatch(
      /^Text 1 brings more students back than text 2: 20 points more, likely between 5 and 35\./,
    );
    expect(pairWords(of(200), pair(-0.2, -0.35, -0.05, true))).toMatch(
      /^Text 2 brings more students back than text 1: 20 points more, likely between 5 and 35\./,
    );
  });

  test('claims no difference that it has not shown', () => {
    expect(pairWords(of(60), pair(0.02, -0.1, 0.14, false))).toMatch(
      /too few to tell\. Text 1 may be up to 10 points worse or 14 points better\.$/,
    );
    expect(pairWords(of(100), pair(0.02, -0.01, 0.01, false))).toMatch(
      /no clear difference\. Text 1 may be up to 1 point worse or 1 point better\.$/,
    );
  });

  test('says how far it is', () => {
    const trial = { ...of(30, 20), open: [2, 3], standing: 'running' } as unknown as Parameters<
      typeof standingWords
    >[0];
    expect(standingWords(trial)).toBe('50 of 200 students counted. 5 students may still come back.');
    expect(standingWords({ ...trial, open: [0, 0] })).toBe('50 of 200 students counted.');
  });
});

import { describe, expect, test } from '@jest/globals';
import { at } from '../testing/course.ts';
import type { TakenBy } from '@zest-bell/core/rounds';
import { outcomeWords } from './outcomeWords.ts';
import { nudgeInTheWayWords } from './nudgeInTheWay.ts';

const ZONE = 'America/New_York';

describe('what took a student first', () => {
  const names = new Map([['quiet', 'Quiet for five days']]);
  const then = at('2026-10-23T09:30');

  test.each<[TakenBy, string]>([
    [{ rule: 'quiet', at: then, coming: false }, '“Quiet for five days” on Fri Oct 23'],
    [{ rule: 'quiet', at: then, coming: true }, '“Quiet for five days”, which comes first on Fri Oct 23'],
    [{ rule: 'gone', at: then, coming: false }, 'another rule on Fri Oct 23'],
    [{ rule: null, at: then, coming: false }, 'a message by hand on Fri Oct 23'],
  ])('%j', (taken, words) => expect(nudgeInTheWayWords(taken, names, ZONE)).toBe(words));

  test('is not told where it is not known', () => {
    expect(nudgeInTheWayWords(null, names, ZONE)).toBeNull();
    expect(nudgeInTheWayWords(undefined, names, ZONE)).toBeNull();
  });
});

describe('what came of what was sent', () => {
  const part = (count: number, of: number) => ({ count, of, low: 0, high: 1, share: 0 });
  const result = { sent: 12, open: 0, openBack: 0, openReplied: 0, returns: part(5, 12), replies: part(2, 12) };

  test('is counted with its whole', () => {
    expect(outcomeWords(result)).toBe('sent 12 times · 5 of 12 came back · 2 of 12 replied');
  });

  test('leaves out what cannot be told, and names what is too recent apart', () => {
    expect(outcomeWords({ ...result, returns: null, replies: part(0, 0), sent: 1 })).toBe('sent 1 time');
    expect(outcomeWords({ ...result, open: 4, openBack: 3 })).toMatch(/ · 4 too recent to tell \(3 back already\)$/);
    expect(outcomeWords({ ...result, open: 4, openBack: 3, openReplied: 1 })).toMatch(
      / · 4 too recent to tell \(3 back, 1 replied already\)$/,
    );
    expect(outcomeWords({ ...result, open: 4 })).toMatch(/ · 4 too recent to tell$/);
  });
});

import { describe, expect, test } from '@jest/globals';
import { A_WHILE, isNews, nextMoment, type HeldMoment } from './heldMoment.ts';

const held: HeldMoment = { now: 1_000, news: 'a' };
const seen = { now: 1_000, news: 'a', demo: false, movedPlace: false };

describe('the moment that a place speaks of', () => {
  test('is the first that the clock told', () => {
    expect(nextMoment(null, seen)).toEqual(held);
  });

  test('stays, as the same object, while the clock ticks on', () => {
    expect(nextMoment(held, { ...seen, now: 1_000 + 10 * A_WHILE, news: 'b' })).toBe(held);
  });

  test('moves with the demo’s clock at once', () => {
    expect(nextMoment(held, { ...seen, now: 1_001, demo: true })).toEqual({ now: 1_001, news: 'a' });
  });

  test('is another where a place is opened after a while, and the same where it is opened soon', () => {
    const later = { ...seen, movedPlace: true };
    expect(nextMoment(held, { ...later, now: held.now + A_WHILE })).toBe(held);
    expect(nextMoment(held, { ...later, now: held.now + A_WHILE + 1, news: 'b' })).toEqual({
      now: held.now + A_WHILE + 1,
      news: 'b',
    });
  });

  test('learns what had happened once that is known, without moving', () => {
    expect(nextMoment({ now: 1_000, news: undefined }, { ...seen, now: 5_000 })).toEqual({ now: 1_000, news: 'a' });
  });

  test('has news only where both are known and differ', () => {
    expect(isNews(held, 'b')).toBe(true);
    expect(isNews(held, 'a')).toBe(false);
    expect(isNews(held, undefined)).toBe(false);
    expect(isNews({ now: 1, news: undefined }, 'b')).toBe(false);
  });
});

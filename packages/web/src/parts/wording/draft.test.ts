import { describe, expect, test } from '@jest/globals';
import type { Wording } from '@zest-bell/core/wording';
import { baseOf, FIRST, readerWords, without, withCopy, withText, withWords, wordsAt } from './draft.ts';

const wording: Wording = { id: 'w', name: 'Gentle', purpose: 'support', subject: 'One', text: 'first' };
const text = (index: number) => ({ kind: 'text', index }) as const;
const copy = (index: number) => ({ kind: 'copy', index }) as const;

describe('a wording that is being written', () => {
  test('gets another text that begins as the one in hand, and each is changed by itself', () => {
    const two = withWords(withText(wording, FIRST), text(1), { subject: 'Two' });
    expect(wordsAt(two, FIRST)).toEqual({ subject: 'One', text: 'first' });
    expect(wordsAt(two, text(1))).toEqual({ subject: 'Two', text: 'first' });
    expect(wordsAt(withWords(two, FIRST, { text: 'new' }), text(1)).text).toBe('first');
    expect(wordsAt(withText(two, text(1)), text(2)).subject).toBe('Two');
  });

  test('gives the place of its first text to the second when the first goes', () => {
    const two = withWords(withText(wording, FIRST), text(1), { subject: 'Two' });
    expect(without(two, FIRST)).toMatchObject({ subject: 'Two', variants: [] });
    expect(without(two, text(1))).toMatchObject({ subject: 'One', variants: [] });
    // The last one stays.
    expect(without(wording, FIRST)).toBe(wording);
  });

  test('has words for third parties, each with a greeting of its own', () => {
    const told = withCopy(withCopy(wording, 'instructor'), 'contact:advisor');
    expect(told.copies?.map((c) => c.to)).toEqual(['instructor', 'contact:advisor']);
    expect(wordsAt(told, copy(1)).text).toMatch(/reader\.name/);
    const changed = withWords(told, copy(0), { subject: 'For you' });
    expect(changed.copies?.map((c) => c.subject)[0]).toBe('For you');
    expect(changed.copies?.[1]).toBe(told.copies?.[1]);
    expect(without(changed, copy(0)).copies?.map((c) => c.to)).toEqual(['contact:advisor']);
  });

  test('a place that is gone shows the first text', () => {
    expect(wordsAt(wording, text(4))).toEqual({ subject: 'One', text: 'first' });
    expect(wordsAt(wording, copy(4))).toEqual({ subject: 'One', text: 'first' });
  });

  test('problems are told under the path of their place', () => {
    expect([FIRST, text(2), copy(1)].map(baseOf)).toEqual(['', 'variants[1].', 'copies[1].']);
  });

  test.each([
    ['anyone', 'any third party'],
    ['instructor', 'instructors'],
    ['contact:advisor', 'advisors'],
    ['address:dean@saltmarsh.example', 'dean@saltmarsh.example'],
  ])('a reader “%s” is told as “%s”', (to, words) => expect(readerWords(to)).toBe(words));
});

import { describe, expect, test } from '@jest/globals';
import type { CarryPreview, CarryRuleLine } from '@zest-bell/core/exchange';
import { previewRequest, NO_CHOICES, paired, toggled, unmatched } from './choices.ts';
import { settingTitle, settingWords } from '../../lib/settingWords.ts';

const rule = (from: string, items: string[]) => ({ from, items }) as unknown as CarryRuleLine;
const preview = {
  rules: [rule('a', ['q1', 'q2']), rule('b', ['q3'])],
  views: [{ name: 'Mine', without: [], isThere: false }],
  items: [
    { from: 'q1', to: 'x', how: 'alike' },
    { from: 'q2', to: null, how: 'none' },
    { from: 'q3', to: 'y', how: 'id' },
    { from: 'q4', to: null, how: 'none' },
  ],
} as unknown as CarryPreview;

describe('what is asked', () => {
  test('is all of it for the preview, and what does not stay behind for carrying', () => {
    const choices = { ...NO_CHOICES, rulesLeft: ['b'], viewsLeft: ['Mine'], sender: true };
    expect(previewRequest(2, choices)).toMatchObject({ from: 2, rules: null, views: null, sender: true });
    expect(previewRequest(2, choices, preview)).toMatchObject({ rules: ['a'], views: [] });
    expect(previewRequest(2, choices)).not.toHaveProperty('rulesLeft');
  });

  test('a name goes in and out of a list once', () => {
    expect(toggled(['a'], 'b', true)).toEqual(['a', 'b']);
    expect(toggled(['a', 'b'], 'b', true)).toEqual(['a', 'b']);
    expect(toggled(['a', 'b'], 'a', false)).toEqual(['b']);
  });
});

describe('matches', () => {
  test('an item that is taken by another leaves the one that had it', () => {
    expect(paired(preview, {}, 'q2', 'x')).toEqual({ q1: null, q2: 'x' });
    expect(paired(preview, { q3: 'y' }, 'q2', null)).toEqual({ q3: 'y', q2: null });
    expect(paired(preview, {}, 'q1', 'x')).toEqual({ q1: 'x' });
  });

  test('count where a rule that comes along names them', () => {
    expect(unmatched(preview, NO_CHOICES)).toEqual({ none: 1, alike: 1 });
    expect(unmatched(preview, { ...NO_CHOICES, rulesLeft: ['a'] })).toEqual({ none: 0, alike: 0 });
    expect(unmatched(preview, { ...NO_CHOICES, withItems: true })).toEqual({ none: 0, alike: 0 });
  });
});

test('settings in words', () => {
  expect(settingTitle('marks.mastery')).toBe('The mastery score');
  expect(settingWords('marks.mastery', 80)).toBe('80%');
  expect(settingWords('quietHours', { from: '21:00', to: '07:00', days: ['SU'] })).toBe('9 PM to 7 AM and all Sunday');
  expect(settingWords('quietHours', { days: [] })).toBe('none');
  expect(settingWords('budget', { count: 1, days: 7 })).toBe('at most 1 nudge in 7 days');
  expect(settingWords('groupWeights', { Labs: 60, Quizzes: 40 })).toBe('Labs 60; Quizzes 40');
  expect(settingWords('budget', null)).toBe('none');
});

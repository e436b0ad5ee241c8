/** Small sentences that stand on many pages. */
import { describe, expect, test } from '@jest/globals';
import { MAIL_TROUBLES } from '@zest-bell/core/nudges';
import { at } from '../testing/course.ts';
import { limitsWords } from './limits.ts';
import { mailTroubleHelp, mailTroubleWords } from './mailTroubleWords.ts';
import { outcomeWords } from './outcomeWords.ts';
import { nudgeInTheWayWords } from './nudgeInTheWay.ts';

test('the limits of a course are named below a rule, and a course without any says nothing', () => {
  expect(limitsWords({ quietHours: null, budget: null })).toBe('');
  const quietHours = { from: '21:00', to: '07:00', days: ['SA', 'SU'] };
  expect(limitsWords({ quietHours, budget: { count: 1, days: 14, strict: true } })).toBe(
    'Quiet hours: nothing is sent between 9 PM and 7 AM. Nothing is sent on Saturdays and Sundays. ' +
      'Message budget: 1 nudge a student in 14 days, for every step and weight.',
  );
  expect(limitsWords({ quietHours: { from: '08:00', to: '08:00', days: [] }, budget: null })).toBe('');
});

describe('what came of a text', () => {
  const share = (count: number, of: number) => ({ count, of, low: 0, high: 1 });
  const result = (more: object) => ({
    sent: 12,
    returns: share(7, 10),
    replies: share(2, 12),
    open: 0,
    openBack: 0,
    openReplied: 0,
    ...more,
  });

  test('has each count with its whole', () => {
    expect(outcomeWords(result({}) as never)).toBe('sent 12 times · 7 of 10 came back · 2 of 12 replied');
  });

  test('names apart what is too recent to tell', () => {
    expect(outcomeWords(result({ open: 2, openBack: 1 }) as never)).toMatch(
      /· 2 too recent to tell \(1 back already\)$/,
    );
    expect(outcomeWords(result({ sent: 1, returns: null, replies: share(0, 0), open: 1 }) as never)).toBe(
      'sent 1 time · 1 too recent to tell',
    );
  });
});

describe('what used up the budget', () => {
  const names = new Map([['quiet', 'Quiet for five days']]);
  const zone = 'America/New_York';
  const day = at('2026-09-14T09:30');

  test.each([
    [null, null],
    [{ rule: 'quiet', at: day, coming: false }, '“Quiet for five days” on Mon Sep 14'],
    [{ rule: 'quiet', at: day, coming: true }, '“Quiet for five days”, which comes first on Mon Sep 14'],
    [{ rule: 'gone', at: day, coming: false }, 'another rule on Mon Sep 14'],
    [{ rule: null, at: day, coming: false }, 'a message by hand on Mon Sep 14'],
  ])('%j is “%s”', (taken, words) => {
    expect(nudgeInTheWayWords(taken, names, zone)).toBe(words);
  });
});

test('each trouble of the mail server is a sentence with what to do', () => {
  for (const trouble of MAIL_TROUBLES) {
    expect(mailTroubleWords({ trouble })).toMatch(/^[A-Z].*\.$/);
    expect(mailTroubleHelp({ trouble })).toMatch(/^(Ask|Show|If|Check) .*\.$/);
  }
});

import { describe, expect, test } from '@jest/globals';
import { evidenceWords, type LeafEvidence } from '@zest-bell/core/conditions';
import type { RoundSummary } from '@zest-bell/core/exchange';
import { limitsWords } from './limits.ts';
import { addressWords, roundWords, withdrawnWords, withheldWords } from './decisionWords.ts';

const NY = 'America/New_York';
const TUESDAY = Date.parse('2026-10-21T01:14:00Z');
const leaf = (more: Partial<LeafEvidence>): LeafEvidence =>
  ({ measure: 'daysSinceVisit', value: 6, is: '>=', threshold: 5, verdict: true, ...more }) as LeafEvidence;

describe('evidence reads as a person says it', () => {
  test('an absence with its fact and its own whole number of days', () => {
    expect(evidenceWords([leaf({ fact: { kind: 'last', what: 'visit', at: TUESDAY } })], NY)).toBe(
      'last visit Tue Oct 20, 9:14 PM · 6 days',
    );
  });

  test('several conditions, each with its own', () => {
    const words = evidenceWords(
      [
        leaf({ fact: { kind: 'last', what: 'visit', at: null }, value: 1 }),
        leaf({ measure: 'score', item: 'q1', value: 45, fact: { kind: 'score', points: 9, of: 20, at: TUESDAY } }),
        leaf({
          measure: 'missing',
          value: 1,
          fact: { kind: 'items', what: 'missing', items: [{ title: 'Lab', dueAt: 1 }] },
        }),
        leaf({ measure: 'submitted', value: false, fact: { kind: 'done', what: 'submission', at: null } }),
      ],
      NY,
    );
    expect(words).toBe(
      'no visit yet · 1 day · 45%, 9 of 20 points, graded Tue Oct 20, 9:14 PM · missing Lab · not submitted',
    );
  });
});

test('what a round came to leaves out what did not happen', () => {
  const round = { matched: 7, heard: 1, held: 0, withheld: 6, withdrawn: 0 } as RoundSummary;
  expect(roundWords(round)).toBe('7 match, 1 nudged, 6 held back');
  expect(roundWords({ ...round, held: 2, withdrawn: 1, withheld: 0 })).toBe(
    '7 match, 1 nudged, 2 waiting for you, 1 canceled',
  );
});

test('limits, withdrawals and addresses have their words', () => {
  expect(withheldWords('budget')).toBe('held back: message budget used up');
  expect(withdrawnWords('noLongerTrue')).toBe('no longer matched when it was to leave');
  const about = (...measures: LeafEvidence['measure'][]) =>
    withdrawnWords(
      'noLongerTrue',
      measures.map((measure) => leaf({ measure })),
    );
  expect(about('daysSinceVisit')).toBe('came back before it left');
  expect(about('missing', 'submitted')).toBe('the work was done before it left');
  expect(about('score')).toBe('the grade changed before it left');
  // Which of the two it was is not known.
  expect(about('daysSinceVisit', 'score')).toBe('no longer matched when it was to leave');
  expect(
    addressWords([
      { kind: 'student', name: 'Imani Okoro', address: 'imani@saltmarsh.example', reader: 'student' },
      { kind: 'address', name: '', address: 'desk@saltmarsh.example', reader: 'address:desk@saltmarsh.example' },
    ]),
  ).toBe('Imani Okoro <imani@saltmarsh.example>, desk@saltmarsh.example');
});

describe('the course’s limits below a rule', () => {
  test('say quiet hours, quiet days and the budget', () => {
    const settings = { quietHours: { from: '21:00', to: '07:00', days: ['SA', 'SU'] }, budget: { count: 1, days: 14 } };
    expect(limitsWords(settings)).toBe(
      'Quiet hours: nothing is sent between 9 PM and 7 AM. Nothing is sent on Saturdays and Sundays. Message budget: 1 nudge a student in 14 days.',
    );
  });

  test('say nothing where there are none; equal ends are no quiet hours', () => {
    expect(limitsWords({ quietHours: null, budget: null })).toBe('');
    expect(limitsWords({ quietHours: { from: '09:00', to: '09:00' }, budget: null })).toBe('');
  });
});

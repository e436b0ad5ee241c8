import { expect, test } from '@jest/globals';
import type { LeafEvidence } from './evidence.ts';
import { evidenceFacts, evidenceWords } from './evidenceWords.ts';

const ZONE = 'America/New_York';
const at = Date.parse('2026-09-10T21:14:00-04:00');
const visit = {
  measure: 'daysSinceVisit',
  value: 5,
  is: '>=',
  threshold: 5,
  verdict: true,
  fact: { kind: 'last', what: 'visit', at },
} as LeafEvidence;
const missing = (titles: readonly string[]): LeafEvidence =>
  ({
    measure: 'missing',
    value: titles.length,
    is: '>=',
    threshold: 1,
    verdict: true,
    fact: { kind: 'items', what: 'missing', items: titles.map((title) => ({ title, dueAt: null })) },
  }) as unknown as LeafEvidence;
const grade = {
  measure: 'courseGrade',
  value: 48.3,
  is: '<',
  threshold: 60,
  verdict: true,
  fact: { kind: 'total', earned: 58, possible: 120, graded: 6 },
} as unknown as LeafEvidence;

test('a fact is told in brief by its day, and exactly by its time', () => {
  expect(evidenceFacts([visit], ZONE)).toEqual([
    { words: 'last visit Thu Sep 10 · 5 days', exact: 'last visit Thu Sep 10, 9:14 PM · 5 days' },
  ]);
});

test('in brief the first two of many items are named, and a grade has its title alone', () => {
  const facts = evidenceFacts([missing(['Lab 1', 'Lab 2', 'Lab 3', 'Lab 4']), grade], ZONE);
  expect(facts.map((f) => f.words)).toEqual(['missing Lab 1, Lab 2 and 2 more', 'course grade 48.3%']);
  expect(facts[0]!.exact).toBe('missing Lab 1, Lab 2, Lab 3 and Lab 4');
  // One more is named rather than counted.
  expect(evidenceFacts([missing(['Lab 1', 'Lab 2', 'Lab 3'])], ZONE)[0]!.words).toBe('missing Lab 1, Lab 2 and Lab 3');
});

test('what two conditions share is said once', () => {
  expect(evidenceFacts([visit, { ...visit, is: '<', threshold: 9 }], ZONE)).toHaveLength(1);
  expect(evidenceWords([visit, visit, missing(['Lab 1'])], ZONE)).toBe(
    'last visit Thu Sep 10, 9:14 PM · 5 days · missing Lab 1',
  );
});

test('a change is told by both counts', () => {
  const change = (days: number) =>
    ({
      measure: 'visitsChange',
      value: -5,
      is: '<=',
      threshold: -3,
      verdict: true,
      fact: { kind: 'counts', what: 'visit', days, now: 2, before: 7 },
    }) as LeafEvidence;
  expect(evidenceWords([change(14)], ZONE)).toBe('2 visits, 7 in the two weeks before');
  expect(evidenceWords([change(10)], ZONE)).toBe('2 visits, 7 in the 10 days before');
});

import { expect, test } from '@jest/globals';
import { silencesIn } from './silence.ts';

const [start, end] = ['2026-08-31', '2026-12-18'];
const budget = (count: number) => ({ settings: { budget: { count, days: 7 } }, breaks: [], start, end });
const breaks = (...dates: readonly (readonly [string, string])[]) => ({
  settings: { budget: null },
  breaks: dates.map(([from, to]) => ({ from, to })),
  start,
  end,
});
const today = '2026-10-26';

test('a budget of nothing silences the rules, and one of a nudge does not', () => {
  expect(silencesIn(budget(0), today)).toEqual([expect.stringMatching(/0 nudges, which silences every rule/)]);
  expect(silencesIn(budget(1), today)).toEqual([]);
  expect(silencesIn({ ...budget(0), settings: { budget: null } }, today)).toEqual([]);
});

test('breaks that cover all that is left do, also several one after the other', () => {
  expect(silencesIn(breaks(['2026-10-20', '2026-12-18']), today)).toEqual([expect.stringMatching(/^Breaks cover/)]);
  expect(silencesIn(breaks(['2026-11-20', '2027-01-05'], ['2026-10-20', '2026-11-19']), today)).toHaveLength(1);
  expect(silencesIn(breaks(['2026-11-20', '2027-01-05'], ['2026-10-20', '2026-11-18']), today)).toEqual([]);
  expect(silencesIn(breaks(['2026-10-27', '2026-12-18']), today)).toEqual([]);
});

test('a course that is over has no rules to silence', () => {
  expect(silencesIn(budget(0), '2026-12-19')).toEqual([]);
});

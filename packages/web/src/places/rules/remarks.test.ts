import { expect, test } from '@jest/globals';
import { makeCourse } from '@zest-bell/core/course';
import { conflictsIn, type Condition, type Leaf } from '@zest-bell/core/conditions';
import type { Dot } from '@zest-bell/core/rounds';
import { remarksOn } from './remarks.ts';

const course = makeCourse({
  code: 'NAV 120',
  title: 'Coastal Navigation',
  timeZone: 'America/New_York',
  start: '2026-08-31',
  end: '2026-12-18',
  breaks: [],
  groupWeights: null,
  marks: {},
  settings: { quietHours: null, budget: null },
  people: [],
  items: [],
});
const away = (is: Leaf['is'], value: number): Leaf => ({ measure: 'daysSinceVisit', is, value });
const dots = (...meets: Dot['meets'][]): Dot[] => meets.map((m, i) => ({ student: `p${i}`, value: 1, meets: m }));
const remarks = (when: Condition, ...columns: Dot[][]) => [
  ...remarksOn(when, conflictsIn(when, {}), columns.length > 0 ? { dots: columns, unheard: [] } : null, course),
];
const missing: Leaf = { measure: 'missing', is: '>=', value: 1 };

test('a condition that nobody meets, everybody meets, or of which nothing is known says so at its path', () => {
  const when: Condition = { all: [away('>=', 5), missing] };
  expect(remarks(when, dots('no', 'no', 'unknown'), dots('this', 'all'))).toEqual([
    ['0', 'No student matches this right now.'],
    ['1', 'Every student matches this right now.'],
  ]);
  expect(remarks(when, dots('unknown', 'unknown'), dots('this', 'no'))).toEqual([
    ['0', 'There is no data about this for any student yet.'],
  ]);
});

test('a comparison with the class says that it looks at the last midnight', () => {
  const [remark] = remarks({ measure: 'gradeVsClass', is: '<=', value: -10 }, dots('unknown'));
  expect(remark![1]).toMatch(/as of the last midnight, so what came in today counts from tomorrow/);
});

test('completions that never came in are said in place of “every student matches”', () => {
  const when: Condition = { all: [{ measure: 'completed', is: 'equals', value: false }, missing] };
  const message = 'No completions of the course have come in. Every student counts as not completed.';
  const reach = { dots: [dots('all', 'this'), dots('all', 'no')], unheard: [{ leaf: 0, message, instead: null }] };
  expect([...remarksOn(when, [], reach, course)]).toEqual([['0', message]]);
});

test('a lone condition that everybody meets is the rule itself: the headline says that', () => {
  expect(remarks(away('>=', 0), dots('all', 'all'))).toEqual([]);
  expect(remarks(away('>=', 90), dots('no'))).toEqual([['', 'No student matches this right now.']]);
});

test('a contradiction is said before who meets it, and needs no numbers', () => {
  const when: Condition = { all: [away('>=', 5), { none: [away('>=', 3)] }] };
  const words = 'Cannot be true together with “not visited the course for 5 days”.';
  expect(remarks(when)).toEqual([['1.0', words]]);
  expect(remarks(when, dots('this', 'no'), dots('no', 'all'))).toEqual([['1.0', words]]);
});

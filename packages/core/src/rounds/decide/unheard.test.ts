import { describe, expect, test } from '@jest/globals';
import { at, factsOf, item, person, type StorySpec } from '../../testing/build.ts';
import type { Leaf } from '../../conditions/condition.ts';
import { unheardIn } from './unheard.ts';

const facts = factsOf({
  people: [person('p1'), person('p2')],
  items: [
    item('drills', { title: 'Tide drills', kind: 'practice' }),
    item('chart', { title: 'Chart drills', kind: 'practice' }),
    item('page', { title: 'Syllabus', kind: 'page' }),
    item('essay', { title: 'Essay 1' }),
  ],
  events: [
    ['p1', 'practice', '2026-09-02T10:00', 'drills'],
    ['p2', 'complete', '2026-09-03T10:00', 'chart'],
  ],
});
const now = at('2026-09-20T09:30');
const not = (of?: string): Leaf => ({ measure: 'completed', item: of, is: 'equals', value: false });
const found = (...leaves: Leaf[]) => unheardIn({ all: leaves }, facts, now);

test('warns about completions that never came in, and offers a condition that has data', () => {
  expect(found({ measure: 'missing', is: '>=', value: 1 }, not('drills'), not('page'), not())).toEqual([
    {
      leaf: 1,
      message: 'No completions have come in for Tide drills. Every student counts as not completed.',
      instead: {
        leaf: { measure: 'submitted', item: 'drills', is: 'equals', value: false },
        words: 'has not practiced',
      },
    },
    {
      leaf: 2,
      message: 'No completions have come in for Syllabus. Every student counts as not completed.',
      instead: { leaf: { measure: 'opens', item: 'page', is: 'equals', value: 0 }, words: 'has never opened' },
    },
    {
      leaf: 3,
      message: 'No completions of the course have come in. Every student counts as not completed.',
      instead: null,
    },
  ]);
});

test('a completion of one student is enough, and only up to the moment that is asked about', () => {
  expect(found(not('chart'))).toEqual([]);
  expect(unheardIn(not('chart'), facts, at('2026-09-03T09:59'))).toHaveLength(1);
});

describe('[M5] visits that are not recorded', () => {
  const often: Leaf = { measure: 'visits', window: { last: { days: 7 } }, is: '<=', value: 1 };
  const warned = (events: StorySpec['events']) =>
    unheardIn(often, factsOf({ people: [person('p1'), person('p2')], events }), now).map((u) => u.message);

  test('a course that knows only when students were last seen finds nobody by them', () => {
    expect(
      warned([
        ['p1', 'lastVisit', '2026-09-02T10:00'],
        ['p2', 'lastSignIn', '2026-09-03T10:00'],
      ]),
    ).toEqual(['This course knows only when each student was last seen, so this finds nobody.']);
  });

  test('of some students it says nothing, and counts them', () => {
    expect(
      warned([
        ['p1', 'lastVisit', '2026-09-02T10:00'],
        ['p2', 'visit', '2026-09-03T10:00'],
      ]),
    ).toEqual(['Of 1 student it is known only when they were last seen. This finds none of them.']);
  });

  test('where visits are recorded there is nothing to warn of', () => {
    expect(warned([['p1', 'visit', '2026-09-02T10:00']])).toEqual([]);
  });
});

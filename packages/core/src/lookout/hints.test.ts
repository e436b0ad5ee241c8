import { expect, test } from '@jest/globals';
import { at, factsOf, item, person } from '../testing/build.ts';
import { hintsFor, type HintFacts } from './hints.ts';

const story = factsOf({
  people: [person('p1'), person('p2'), person('p3'), person('p4')],
  items: [
    item('q1', { title: 'Tide quiz', dueAt: at('2026-09-13T23:59') }),
    item('q2', { title: 'Chart quiz', dueAt: at('2026-10-11T23:59') }),
    item('q3', { title: 'Fix quiz', dueAt: at('2026-10-18T23:59') }),
  ],
  events: [
    ['p1', 'submit', '2026-09-12T10:00', 'q1'],
    ['p2', 'submit', '2026-09-12T10:00', 'q1'],
    ['p3', 'submit', '2026-09-12T10:00', 'q1'],
  ],
  grades: [
    ['p1', 'q1', 19, '2026-09-15T08:00'],
    ['p2', 'q1', 18, '2026-09-15T08:00'],
    ['p3', 'q1', 16, '2026-09-15T08:00'],
    // Of the later quizzes, one grade is in: too few to speak of.
    ['p1', 'q3', 20, '2026-10-20T08:00'],
  ],
});
const log = (more: Partial<HintFacts> = {}): HintFacts => ({ lastSent: new Map(), waiting: new Set(), ...more });
const kinds = (t: string, more: Partial<HintFacts> = {}) =>
  hintsFor(story, log(more), at(t)).map((h) => [h.kind, ...h.students]);

test('in the first weeks it names those who have never visited', () => {
  expect(kinds('2026-09-07T09:00')).toEqual([['neverVisited', 'p1', 'p2', 'p3', 'p4']]);
  expect(kinds('2026-09-16T09:00')).toContainEqual(['neverVisited', 'p4']);
  expect(kinds('2026-10-22T09:00').map(([kind]) => kind)).not.toContain('neverVisited');
});

test('whoever did well on the latest graded item and heard nothing for four weeks', () => {
  expect(kinds('2026-09-16T09:00')).toContainEqual(['didWell', 'p1', 'p2']);
  const lastSent = new Map([
    ['p1', at('2026-09-10T09:00')],
    ['p2', at('2026-08-31T09:00')],
  ]);
  expect(kinds('2026-09-30T09:00', { lastSent })).toContainEqual(['didWell', 'p2']);
  const [hint] = hintsFor(story, log(), at('2026-10-22T09:00')).filter((h) => h.kind === 'didWell');
  expect(hint).toMatchObject({ item: 'Tide quiz', when: { measure: 'score', item: 'q1', is: '>=', value: 90 } });
});

test('whose replies wait; from the fifth week the middle that nobody wrote to; at the end, work that is missing', () => {
  expect(kinds('2026-09-30T09:00', { waiting: new Set(['p3', 'p2']) })).toContainEqual(['repliesWait', 'p2', 'p3']);
  expect(kinds('2026-10-01T09:00')).toContainEqual(['middle', 'p3']);
  expect(kinds('2026-10-01T09:00', { lastSent: new Map([['p3', 0]]) }).map(([kind]) => kind)).not.toContain('middle');
  expect(kinds('2026-12-10T09:00')).toContainEqual(['lastWeeks', 'p2', 'p3', 'p4']);
});

test('before the course and after it there are none', () => {
  expect(kinds('2026-08-20T09:00')).toEqual([]);
  expect(kinds('2027-01-05T09:00')).toEqual([]);
});

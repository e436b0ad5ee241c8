import { describe, expect, test } from '@jest/globals';
import type { Condition } from '../conditions/condition.ts';
import { at, factsOf, item, type StorySpec } from '../testing/build.ts';
import { actAfter, canReturn, isReturn } from './returned.ts';

const away: Condition = { measure: 'daysSinceVisit', is: '>=', value: 5 };
const sent = at('2026-09-07T09:30');
const returned = (story: StorySpec, when: Condition, from = sent) => {
  const facts = factsOf(story);
  const act = actAfter(facts, 0, when, from);
  return act && isReturn(act, from, facts.course.calendar) ? act.at : null;
};

describe('[R13] a return is the student’s own act, within two weeks, that ends what the rule found', () => {
  const visits = (...days: string[]): StorySpec => ({
    events: ['2026-09-01T14:03', ...days].map((d) => ['p1', 'visit', d]),
  });

  test('the first visit ends an absence; a second one is no return of its own', () => {
    expect(returned(visits('2026-09-10T14:03', '2026-09-11T08:00'), away)).toBe(at('2026-09-10T14:03'));
  });

  test('after fourteen days it is none any more', () => {
    expect(returned(visits('2026-09-21T09:29'), away)).toBe(at('2026-09-21T09:29'));
    expect(returned(visits('2026-09-21T09:30'), away)).toBeNull();
  });

  test('[H1] what a list says of the last visit ends an absence at its instant', () => {
    const story = (kind: 'lastVisit' | 'lastSignIn'): StorySpec => ({
      events: [
        ['p1', 'lastVisit', '2026-09-01T14:03'],
        ['p1', kind, '2026-09-10T14:03'],
      ],
    });
    expect(returned(story('lastVisit'), away)).toBe(at('2026-09-10T14:03'));
    expect(returned(story('lastSignIn'), away)).toBeNull();
    const offline: Condition = { measure: 'daysSinceSignIn', is: '>=', value: 5 };
    expect(returned(story('lastSignIn'), offline)).toBe(at('2026-09-10T14:03'));
  });

  test('a sign-in does not end an absence from the course', () => {
    const story: StorySpec = {
      events: [
        ['p1', 'visit', '2026-09-01T14:03'],
        ['p1', 'signIn', '2026-09-08T10:00'],
      ],
    };
    expect(returned(story, away)).toBeNull();
  });

  test('handing in ends something missing, opening ends an unopened page, also under “none”', () => {
    const story: StorySpec = {
      items: [item('lab', { kind: 'assignment', dueAt: at('2026-09-06T23:59') }), item('page', { kind: 'page' })],
      events: [
        ['p1', 'submit', '2026-09-09T10:00', 'lab'],
        ['p1', 'open', '2026-09-08T11:00', 'page'],
      ],
    };
    expect(returned(story, { measure: 'missing', is: '>=', value: 1 })).toBe(at('2026-09-09T10:00'));
    expect(returned(story, { measure: 'opens', item: 'page', is: 'equals', value: 0 })).toBe(at('2026-09-08T11:00'));
    expect(returned(story, { none: [{ measure: 'submitted', item: 'lab', is: 'equals', value: true }] })).toBe(
      at('2026-09-09T10:00'),
    );
  });

  test('what ends by the clock alone is no return', () => {
    const story: StorySpec = { items: [item('lab', { kind: 'assignment', dueAt: at('2026-09-08T23:59') })] };
    expect(returned(story, { measure: 'dueSoon', hours: 72, is: '>=', value: 1 })).toBeNull();
  });

  test('praise for what is not there has none: nobody acts to have something missing, or to be away', () => {
    expect(canReturn({ measure: 'missing', is: 'equals', value: 0 })).toBe(false);
    expect(canReturn({ measure: 'daysSinceVisit', is: '<', value: 2 })).toBe(false);
    expect(canReturn({ none: [{ measure: 'missing', is: '>=', value: 1 }] })).toBe(false);
    expect(canReturn({ none: [{ measure: 'daysSinceVisit', is: '<', value: 2 }] })).toBe(true);
    expect(canReturn({ measure: 'missing', is: 'equals', value: 2 })).toBe(true);
  });

  test('rules on grades and columns have replies only', () => {
    expect(canReturn({ measure: 'courseGrade', is: '<', value: 60 })).toBe(false);
    expect(canReturn({ all: [{ measure: 'courseGrade', is: '<', value: 60 }, away] })).toBe(true);
  });
});

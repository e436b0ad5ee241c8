import { describe, expect, test } from '@jest/globals';
import { at, factsOf, item, person, type StorySpec } from '../../testing/build.ts';
import { factWords } from '../values/fact.ts';
import type { MeasureCall } from '../values/measure.ts';
import { valueAt } from '../values/timeline.ts';

const value = (story: StorySpec, call: MeasureCall, when: string, who = 0) =>
  valueAt(factsOf(story).timeline(who, call), at(when));

describe('[H1] a kind counts as those it implies', () => {
  test.each(['open', 'practice', 'submit', 'post'] as const)('%s is a visit and a sign-in', (kind) => {
    const story: StorySpec = { items: [item('x')], events: [['p1', kind, '2026-09-05T10:00', 'x']] };
    expect(value(story, { measure: 'daysSinceVisit' }, '2026-09-08T10:00')).toBe(3);
    expect(value(story, { measure: 'daysSinceSignIn' }, '2026-09-08T10:00')).toBe(3);
  });

  test('a sign-in is no visit, and attending is neither', () => {
    const story: StorySpec = {
      items: [item('x', { kind: 'session' })],
      events: [
        ['p1', 'signIn', '2026-09-05T10:00'],
        ['p1', 'attend', '2026-09-07T10:00', 'x'],
      ],
    };
    expect(value(story, { measure: 'daysSinceVisit' }, '2026-09-08T10:00')).toBe(8);
    expect(value(story, { measure: 'daysSinceSignIn' }, '2026-09-08T10:00')).toBe(3);
  });
});

describe('[H1, M5] what a list says of the last visit is evidence of that instant, and of nothing else', () => {
  const listed: StorySpec = { events: [['p1', 'lastVisit', '2026-09-05T10:00']] };
  const then = '2026-09-08T10:00';

  test('an absence counts from it; a last sign-in is no visit', () => {
    expect(value(listed, { measure: 'daysSinceVisit' }, then)).toBe(3);
    expect(value(listed, { measure: 'daysSinceSignIn' }, then)).toBe(3);
    const signedIn: StorySpec = { events: [['p1', 'lastSignIn', '2026-09-05T10:00']] };
    expect(value(signedIn, { measure: 'daysSinceSignIn' }, then)).toBe(3);
    expect(value(signedIn, { measure: 'daysSinceVisit' }, then)).toBe(8);
  });

  test.each(['visits', 'longestGap', 'visitsVsClass'] as const)('%s is not known, and says why', (measure) => {
    expect(value(listed, { measure }, then)).toBeNull();
    const fact = factsOf(listed).fact(0, { measure }, at(then));
    expect(factWords(fact, 'America/New_York')).toMatch(/^only the last visit is known, .*Sep 5/);
  });

  test('it is no part of a class mean', () => {
    const story: StorySpec = {
      people: [person('p1'), person('p2'), person('p3')],
      events: [
        ['p1', 'lastVisit', '2026-09-05T10:00'],
        ['p2', 'visit', '2026-09-05T10:00'],
        ['p3', 'visit', '2026-09-05T10:00'],
        ['p3', 'visit', '2026-09-06T10:00'],
        ['p3', 'visit', '2026-09-07T10:00'],
      ],
    };
    // One and three visits: the mean is two.
    expect(value(story, { measure: 'visitsVsClass' }, then, 1)).toBe(-50);
    expect(value(story, { measure: 'visitsVsClass' }, then, 0)).toBeNull();
  });

  test('two lists say nothing of how long somebody stayed away between them', () => {
    const story: StorySpec = {
      events: [
        ['p1', 'lastVisit', '2026-09-05T10:00'],
        ['p1', 'lastVisit', '2026-09-20T10:00'],
      ],
    };
    expect(value(story, { measure: 'longestGap' }, '2026-09-21T10:00')).toBeNull();
  });

  test('a recorded visit ends a gap that a last visit began', () => {
    const story: StorySpec = {
      events: [
        ['p1', 'lastVisit', '2026-09-05T10:00'],
        ['p1', 'visit', '2026-09-12T10:00'],
      ],
    };
    expect(value(story, { measure: 'longestGap' }, '2026-09-11T10:00')).toBeNull();
    expect(value(story, { measure: 'longestGap' }, '2026-09-12T10:00')).toBe(7);
    expect(value(story, { measure: 'visits' }, '2026-09-12T10:00')).toBe(1);
  });

  test('the list of an evening does not end the gap of that morning', () => {
    const story: StorySpec = {
      events: [
        ['p1', 'visit', '2026-09-02T10:00'],
        ['p1', 'lastVisit', '2026-09-12T09:00'],
        ['p1', 'visit', '2026-09-12T10:00'],
      ],
    };
    expect(value(story, { measure: 'longestGap' }, '2026-09-12T10:00')).toBe(10);
  });
});

describe('[H2] a later grade replaces an earlier one from its instant on', () => {
  const story: StorySpec = {
    items: [item('q1')],
    grades: [
      ['p1', 'q1', 9, '2026-09-15T08:00'],
      ['p1', 'q1', 15, '2026-09-17T08:00'],
      ['p1', 'q1', 16, '2026-09-17T08:00'],
    ],
  };
  const score = (when: string) => value(story, { measure: 'score', item: 'q1' }, when);
  test('and at one instant the later in the file', () => {
    expect([score('2026-09-15T07:59'), score('2026-09-15T08:00'), score('2026-09-17T07:59')]).toEqual([null, 45, 45]);
    expect(score('2026-09-17T08:00')).toBe(80);
  });
});

describe('[H5] a due instant is the person’s own extension, else the section’s, else the item’s', () => {
  const lab = item('lab', {
    kind: 'assignment',
    dueAt: at('2026-09-13T23:59'),
    extensions: [
      { section: '02', dueAt: at('2026-09-15T23:59') },
      { person: 'p2', dueAt: at('2026-09-20T23:59') },
      { person: 'p2', dueAt: at('2026-09-25T23:59') },
    ],
  });
  const story: StorySpec = {
    people: [person('p1'), person('p2', { section: '02' }), person('p3', { section: '02' })],
    items: [lab],
  };
  test('of several, the first in the file', () => {
    const missing = (who: number, when: string) => value(story, { measure: 'missing' }, when, who);
    expect([missing(0, '2026-09-13T23:58'), missing(0, '2026-09-13T23:59')]).toEqual([0, 1]);
    expect([missing(2, '2026-09-15T23:58'), missing(2, '2026-09-15T23:59')]).toEqual([0, 1]);
    expect([missing(1, '2026-09-20T23:58'), missing(1, '2026-09-20T23:59')]).toEqual([0, 1]);
  });
});

describe('[H7] an item is done by the act of its kind', () => {
  const kinds = [
    ['assignment', 'submit'],
    ['quiz', 'submit'],
    ['forum', 'post'],
    ['practice', 'practice'],
    ['page', 'open'],
    ['session', 'attend'],
  ] as const;
  test.each(kinds)('%s by %s', (kind, act) => {
    const story: StorySpec = { items: [item('x', { kind })], events: [['p1', act, '2026-09-05T10:00', 'x']] };
    const done = (when: string) => value(story, { measure: 'submitted', item: 'x' }, when);
    expect([done('2026-09-05T09:59'), done('2026-09-05T10:00')]).toEqual([false, true]);
  });

  test('or by a grade above zero without one, whatever grade follows; a grade of zero is none', () => {
    const story: StorySpec = {
      items: [item('x')],
      grades: [
        ['p1', 'x', 0, '2026-09-05T10:00'],
        ['p1', 'x', 3, '2026-09-06T10:00'],
        ['p1', 'x', 0, '2026-09-07T10:00'],
      ],
    };
    const done = (when: string) => value(story, { measure: 'submitted', item: 'x' }, when);
    expect([done('2026-09-05T10:00'), done('2026-09-06T10:00'), done('2026-09-08T10:00')]).toEqual([false, true, true]);
  });
});

describe('[M1] percentages multiply before they divide, and are rounded to nine decimals before a comparison', () => {
  test('a third is 33.333333333, and 29 of 50 is 58 and not 57.99999999999999', () => {
    const score = (points: number, possible: number) =>
      value(
        { items: [item('q1', { points: possible })], grades: [['p1', 'q1', points, '2026-09-15T08:00']] },
        { measure: 'score', item: 'q1' },
        '2026-09-16T08:00',
      );
    expect(score(1, 3)).toBe(33.333333333);
    expect(score(29, 50)).toBe(58);
  });
});

describe('[M2] a class that was missed is an absence, not missing work', () => {
  const story: StorySpec = {
    items: [
      item('lab', { kind: 'assignment', group: 'Labs', dueAt: at('2026-09-05T12:00') }),
      item('class', { kind: 'session', group: 'Classes', dueAt: at('2026-09-05T12:00') }),
    ],
    events: [
      ['p1', 'absent', '2026-09-05T12:00', 'class'],
      ['p1', 'submit', '2026-09-06T12:00', 'lab'],
      ['p1', 'attend', '2026-09-06T13:00', 'class'],
    ],
  };
  const at1 = (call: MeasureCall, when: string) => value(story, call, when);
  test('missing, late, on time and due soon leave sessions out', () => {
    expect(at1({ measure: 'missing' }, '2026-09-05T13:00')).toBe(1);
    expect(at1({ measure: 'late' }, '2026-09-07T00:00')).toBe(1);
    expect(at1({ measure: 'dueSoon', days: 0 }, '2026-09-05T08:00')).toBe(1);
    expect(at1({ measure: 'onTimeShare' }, '2026-09-07T00:00')).toBe(0);
  });
  test('but count those that are named, or stand in a group that is', () => {
    expect(at1({ measure: 'missing', items: ['lab', 'class'] }, '2026-09-05T13:00')).toBe(2);
    expect(at1({ measure: 'missing', group: 'Classes' }, '2026-09-05T13:00')).toBe(1);
    expect(at1({ measure: 'late', group: 'Classes' }, '2026-09-07T00:00')).toBe(1);
    expect(at1({ measure: 'dueSoon', days: 0, group: 'Classes' }, '2026-09-05T08:00')).toBe(1);
  });
  test('other measures over all items count sessions as before', () => {
    expect(at1({ measure: 'share', of: 'submit' }, '2026-09-07T00:00')).toBe(50);
  });
});

describe('[M3] due soon by calendar days', () => {
  // The clocks go back on 2026-11-01: Saturday 10:00 to Sunday 17:00 is 32 hours.
  const story: StorySpec = { items: [item('forum', { kind: 'forum', dueAt: at('2026-11-01T17:00') })] };
  const soon = (days: number, when: string) => value(story, { measure: 'dueSoon', days }, when);
  test('tomorrow is tomorrow, however long the night is', () => {
    expect(value(story, { measure: 'dueSoon', hours: 31 }, '2026-10-31T10:00')).toBe(0);
    expect([soon(1, '2026-10-30T23:59'), soon(1, '2026-10-31T00:00'), soon(1, '2026-10-31T10:00')]).toEqual([0, 1, 1]);
  });
  test('0 is today, and what is due now is no longer due soon', () => {
    expect([soon(0, '2026-10-31T23:59'), soon(0, '2026-11-01T00:00'), soon(0, '2026-11-01T16:59')]).toEqual([0, 1, 1]);
    expect(soon(0, '2026-11-01T17:00')).toBe(0);
  });
});

describe('[M3] what is done is completed, but for pages and practice', () => {
  const kinds = [
    ['assignment', 'submit', true],
    ['quiz', 'submit', true],
    ['forum', 'post', true],
    ['session', 'attend', true],
    ['page', 'open', false],
    ['practice', 'practice', false],
  ] as const;
  test.each(kinds)('%s by %s: %s', (kind, act, completes) => {
    const story: StorySpec = { items: [item('x', { kind })], events: [['p1', act, '2026-09-05T10:00', 'x']] };
    expect(value(story, { measure: 'completed', item: 'x' }, '2026-09-06T10:00')).toBe(completes);
  });
  test('a score counts as done, a completion counts for every kind, and the course takes its own', () => {
    const story: StorySpec = {
      items: [item('q'), item('page', { kind: 'page' })],
      events: [['p1', 'complete', '2026-09-05T10:00', 'page']],
      grades: [['p1', 'q', 5, '2026-09-06T10:00']],
    };
    const completed = (id: string | undefined, when: string) =>
      value(story, { measure: 'completed', ...(id ? { item: id } : {}) }, when);
    expect([completed('page', '2026-09-05T10:00'), completed('q', '2026-09-06T09:59')]).toEqual([true, false]);
    expect([completed('q', '2026-09-06T10:00'), completed(undefined, '2026-09-07T10:00')]).toEqual([true, false]);
  });
});

describe('[M2] several items are a group, a list, or all of the course', () => {
  const story: StorySpec = {
    items: [
      item('a', { group: 'Labs', dueAt: at('2026-09-05T12:00') }),
      item('b', { group: 'Labs', dueAt: at('2026-09-05T12:00') }),
      item('c', { group: 'Quizzes', dueAt: at('2026-09-05T12:00') }),
    ],
  };
  test.each([
    [{}, 3],
    [{ group: 'Labs' }, 2],
    [{ items: ['a', 'c'] }, 2],
  ])('%j', (several, count) => {
    expect(value(story, { measure: 'missing', ...several }, '2026-09-06T12:00')).toBe(count);
  });
});

describe('[M3] the course grade', () => {
  const items = [
    item('a', { group: 'Labs', points: 40 }),
    item('b', { group: 'Quizzes', points: 20 }),
    item('c', { group: 'Extra', points: 10 }),
  ];
  const grades: StorySpec['grades'] = [
    ['p1', 'a', 30, '2026-09-10T08:00'],
    ['p1', 'b', 10, '2026-09-12T08:00'],
    ['p1', 'c', 10, '2026-09-12T08:00'],
  ];
  const grade = (more: Partial<StorySpec>, when: string) =>
    value({ items, grades, ...more }, { measure: 'courseGrade' }, when);

  test('is points earned out of points possible over what is graded; unknown before', () => {
    expect([grade({}, '2026-09-09T08:00'), grade({}, '2026-09-10T08:00')]).toEqual([null, 75]);
    // 50 of 70, by hand.
    expect(grade({}, '2026-09-12T08:00')).toBe(71.428571429);
  });

  test('with weights is the mean of the weighted groups that have a grade', () => {
    const groupWeights = { Labs: 60, Quizzes: 40 };
    // Labs alone: 75; then (60 × 75 + 40 × 50) ÷ 100 = 65, by hand; Extra weighs nothing.
    expect(grade({ groupWeights }, '2026-09-10T08:00')).toBe(75);
    expect(grade({ groupWeights }, '2026-09-12T08:00')).toBe(65);
  });

  test('leaves out what the student is excused from', () => {
    const excused = items.map((i) => (i.id === 'b' ? { ...i, excused: ['p1'] } : i));
    expect(grade({ items: excused }, '2026-09-12T08:00')).toBe(80);
  });
});

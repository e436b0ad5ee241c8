import { describe, expect, test } from '@jest/globals';
import { courseOf, item } from '../testing/build.ts';
import { conditionElsewhere, elsewhere, itemsElsewhere } from './elsewhere.ts';

const lab = (id: string, title: string) => item(id, { title, kind: 'assignment', group: 'Labs' });
const fall = courseOf({
  items: [lab('l1', 'Knots'), lab('l2', 'Charts'), item('q1', { title: 'Quiz 1', group: 'Quizzes' })],
});
const spring = courseOf({
  items: [{ ...lab('k7', 'Radar'), group: 'labs' }, lab('k8', 'Charts'), item('w1', { title: 'Essay', kind: 'forum' })],
});

describe('one course’s question in another course', () => {
  test('an item is the one it is known again by, else the next of its kind and group, else none', () => {
    expect([...itemsElsewhere(fall, spring)]).toEqual([
      ['l2', 'k8'],
      ['l1', 'k7'],
    ]);
  });

  test('groups are found by their name without regard to case; what is not there says nothing', () => {
    const there = elsewhere(fall, spring);
    expect(there({ measure: 'missing', group: 'Labs' })).toEqual({ measure: 'missing', group: 'Labs' });
    expect(there({ measure: 'groupGrade', group: 'Quizzes' })).toBeNull();
    expect(there({ measure: 'score', item: 'l1' })).toEqual({ measure: 'score', item: 'k7' });
    expect(there({ measure: 'score', item: 'q1' })).toBeNull();
    expect(there({ measure: 'missing', items: ['l1', 'l2'] })).toEqual({ measure: 'missing', items: ['k7', 'k8'] });
    expect(there({ measure: 'missing', items: ['l1', 'q1'] })).toBeNull();
    expect(there({ measure: 'daysSinceVisit' })).toEqual({ measure: 'daysSinceVisit' });
  });

  test('a condition goes whole or not at all', () => {
    const there = elsewhere(fall, spring);
    const low = { measure: 'score', item: 'l1', is: '<', value: 50 } as const;
    const quiz = { measure: 'score', item: 'q1', is: '<', value: 50 } as const;
    expect(conditionElsewhere({ all: [low, { any: [low] }] }, there)).toEqual({
      all: [{ ...low, item: 'k7' }, { any: [{ ...low, item: 'k7' }] }],
    });
    expect(conditionElsewhere({ all: [low, quiz] }, there)).toBeNull();
  });
});

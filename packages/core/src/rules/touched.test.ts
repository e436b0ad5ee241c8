import { expect, test } from '@jest/globals';
import { diffCourses } from '../course/changes.ts';
import { courseOf, item, person, ruleOf } from '../testing/build.ts';
import { touchedBy } from './touched.ts';

const course = courseOf({
  people: [person('p1', { section: '01', fields: { boat: 'Tern' } }), person('p2')],
  items: [item('q1', { group: 'Quizzes' }), item('q2', { group: 'Quizzes' }), item('lab')],
});
const touched = (when: object, set: Pick<Partial<typeof course>, 'people' | 'items'>, audience: object = {}) => {
  const rule = ruleOf({ when, audience: { roles: ['student'], ...audience } });
  const after = courseOf({ people: course.people, items: course.items, ...set });
  return touchedBy(rule, diffCourses(course, after), after);
};
const score = { measure: 'score', item: 'q1', is: '<=', value: 50 };
const moved = (id: string) => ({ items: course.items.map((i) => (i.id === id ? { ...i, points: 1 } : i)) });

test('a rule looks at a change of what it names, and of what is in the group it names', () => {
  expect(touched(score, moved('q1'))).toEqual({ looks: true, broken: false });
  expect(touched(score, moved('q2'))).toEqual({ looks: false, broken: false });
  expect(touched({ measure: 'missing', group: 'Quizzes', is: '>=', value: 2 }, moved('q2')).looks).toBe(true);
  expect(touched({ measure: 'missing', is: '>=', value: 2 }, moved('q2')).looks).toBe(false);
});

test('it breaks when what it names is gone', () => {
  expect(touched(score, { items: course.items.slice(1) })).toEqual({ looks: true, broken: true });
  const people = course.people.map((p) => ({ ...p, section: null }));
  expect(touched(score, { people }, { sections: ['01'] })).toEqual({ looks: true, broken: true });
});

test('a column counts where its value changed', () => {
  const field = { measure: 'field', name: 'boat', is: 'equals', value: 'Tern' };
  const people = course.people.map((p) => ({ ...p, fields: { ...p.fields, boat: 'Gull' } }));
  expect(touched(field, { people }).looks).toBe(true);
  expect(touched(field, { people: course.people.map((p) => ({ ...p, lastName: 'X' })) }).looks).toBe(false);
});

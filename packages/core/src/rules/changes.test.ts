import { describe, expect, test } from '@jest/globals';
import { courseOf, item, person, ruleOf } from '../testing/build.ts';
import { differences } from './differences.ts';
import { numbersOf, withNumbers } from './numbers.ts';
import { parseRule } from './rule.ts';
import { ruleDocument } from './document.ts';

const course = courseOf({ items: [item('q1', { title: 'Tide tables quiz' })], people: [person('p1')] });
const rule = ruleOf({
  when: {
    all: [
      { measure: 'daysSinceVisit', is: '>=', value: 5 },
      { none: [{ measure: 'visits', window: { last: { days: 7 } }, is: '>=', value: 3 }] },
      { measure: 'score', item: 'q1', is: '<', value: { mark: 'mastery' } },
    ],
  },
  repeat: { perSpell: 1, gap: { days: 7 } },
  steps: [
    { deliver: 'send', to: ['student'], wording: 'gentle' },
    { after: { days: 5 }, deliver: 'hold', to: ['student', 'contact:advisor'], wording: 'firm' },
  ],
});

describe('every number of a rule', () => {
  test('is listed with where it stands, in the order of the sentence; a mark is none', () => {
    expect(numbersOf(rule, course).map((n) => [n.path, n.value, n.unit])).toEqual([
      ['when.all[0].value', 5, 'days'],
      ['when.all[1].none[0].value', 3, 'count'],
      ['when.all[1].none[0].window.last.days', 7, 'days'],
      ['repeat.perSpell', 1, 'times'],
      ['repeat.gap.days', 7, 'days'],
      ['steps[1].after.days', 5, 'days'],
    ]);
  });

  test('can be changed at once, and the rest stays', () => {
    const all = new Map(numbersOf(rule, course).map((n) => [n.path, n.value + 1]));
    const changed = withNumbers(rule, course, all);
    expect(numbersOf(changed, course).map((n) => n.value)).toEqual([6, 4, 8, 2, 8, 6]);
    expect(parseRule(ruleDocument(changed, course.timeZone)).ok).toBe(true);
    expect(withNumbers(rule, course, new Map())).toEqual(rule);
  });
});

describe('the differences of two versions', () => {
  test('are said in the words of the sentence, part by part', () => {
    const changed = {
      ...rule,
      name: 'Away, and low',
      audience: { ...rule.audience, except: ['p1'] },
      rhythm: { ...rule.rhythm, start: '2026-08-31T10:00' },
      repeat: { perSpell: null, perTerm: null, gap: null },
      steps: rule.steps.slice(0, 1),
    };
    expect(differences(rule, changed, course, (id) => id.toUpperCase())).toEqual([
      { part: 'Name', before: 'Away', after: 'Away, and low' },
      { part: 'When it runs', before: 'every day at 9:30 AM', after: 'every day at 10 AM' },
      { part: 'For whom', before: 'students', after: 'students, except P1 Test' },
      { part: 'How often', before: 'once each time and at most every 7 days', after: 'at every check' },
      { part: 'Step 2', before: 'after 5 days, holds “FIRM” to the student and their advisor', after: '—' },
    ]);
  });

  test('of a rule with itself are none', () => {
    expect(differences(rule, rule, course)).toEqual([]);
  });
});

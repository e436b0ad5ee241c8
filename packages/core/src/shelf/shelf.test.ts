/** What goes on the shelf, and what comes off it. */
import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '../course/course.ts';
import { at, courseOf, item, person, ruleOf } from '../testing/build.ts';
import type { Wording } from '../wording/wording.ts';
import { courseWords, withoutCourse } from './courseWords.ts';
import { takenFromShelf } from './taking.ts';

const course = courseOf({
  people: [person('p1', { firstName: 'Wren', lastName: 'Abbot', section: 'A' })],
  items: [item('q1', { title: 'Tide quiz', dueAt: at('2026-09-14T23:59'), group: 'Quizzes' })],
});
const wording = (text: string, more: Partial<Wording> = {}): Wording => ({
  id: 'w',
  name: 'Gentle',
  purpose: 'support',
  subject: 'Hello',
  text,
  variants: [],
  copies: [],
  files: [],
  letter: null,
  ...more,
});
const wordsOf = (text: string) =>
  courseWords({ rule: null, wordings: [wording(text)] }, course).map((w) => [w.kind, w.found, w.mayStay]);

describe('what belongs to one course', () => {
  test.each<[string, unknown[]]>([
    ['Nothing of it', []],
    ['Ask wren abbot, or Wren', [['person', 'wren abbot', false]]],
    ['Wrena Abbotson is another', []],
    ['Write to office@saltmarsh.example.', [['address', 'office@saltmarsh.example', false]]],
    ['Before the Tide quiz', [['item', 'Tide quiz', true]]],
    ['See {{ link["q1"] }}', [['item', 'Tide quiz', false]]],
    ['Until September 14', [['date', 'September 14', true]]],
    ['In the fall semester', [['season', 'fall semester', true]]],
  ])('“%s”', (text, found) => {
    expect(wordsOf(text)).toEqual(found);
  });

  test('is what a rule names of it, and a file that goes along', () => {
    const rule = ruleOf({
      audience: { roles: ['student'], sections: ['A'], except: ['p1'] },
      when: { all: [{ measure: 'submitted', item: 'q1', is: 'equals', value: false }] },
      steps: [{ deliver: 'send', to: ['student', 'address:dean@saltmarsh.example'], wording: 'w' }],
    });
    const files = [{ id: 'x', name: 'map.pdf', type: 'application/pdf', size: 1 }] as never;
    const found = courseWords({ rule, wordings: [wording('', { files })] }, course);
    expect(found.map((w) => [w.kind, w.found])).toEqual([
      ['section', 'A'],
      ['person', 'Wren Abbot'],
      ['item', 'Tide quiz'],
      ['address', 'dean@saltmarsh.example'],
      ['file', 'map.pdf'],
    ]);
    expect(found.every((w) => !w.mayStay)).toBe(true);
  });

  test('is left out where a chip says it: the title and the code of the course', () => {
    const own = withoutCourse(
      { rule: ruleOf({ note: 'mine' }), wordings: [wording(`${course.title} is quiet`)] },
      course,
    );
    expect(own.wordings[0]!.text).toBe('{{ course.title }} is quiet');
    expect(own.rule).toMatchObject({ status: 'draft', note: '' });
    expect(courseWords(own, course)).toEqual([]);
  });
});

test('what is taken is a draft of its own: its dates are moved, its texts have ids that are free', () => {
  const target = makeCourse({ ...courseOf(), start: '2027-01-11', end: '2027-04-30' });
  const rule = ruleOf({ id: 'away', steps: [{ deliver: 'send', to: ['student'], wording: 'w' }] });
  const run = { timeZone: course.timeZone, start: course.start, end: course.end };
  const content = withoutCourse({ rule, wordings: [wording('A word')] }, course);
  const into = { course: target, wordings: [wording('Another')], rules: new Set(['away']) };
  const taken = takenFromShelf(content, run, into);
  expect(taken.rule).toMatchObject({ id: 'away-2', status: 'draft', steps: [{ wording: 'w-2' }] });
  expect(taken.rule!.rhythm.start > '2027-01-10').toBe(true);
  expect([taken.wordings.map((w) => w.id), taken.first]).toEqual([['w-2'], 'w-2']);
  // Word for word the same: nothing comes along.
  const again = takenFromShelf(content, run, { ...into, wordings: [wording('A word')] });
  expect([again.wordings, again.first]).toEqual([[], 'w']);
});

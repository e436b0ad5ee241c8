import { expect, test } from '@jest/globals';
import { at, courseOf, item, ruleOf } from '../testing/build.ts';
import type { Words } from './check.ts';
import { misfits } from './misfits.ts';

const course = courseOf({
  items: [
    item('lab-1', { kind: 'assignment', title: 'Chart lab 1' }),
    item('lab-2', { kind: 'assignment', title: 'Chart lab 2' }),
    item('lab-3', { kind: 'assignment', title: 'Chart lab 3', dueAt: at('2026-10-04T17:00') }),
    item('forum', { kind: 'forum', group: 'Discussions' }),
  ],
});
const said = (text: string, draft: Record<string, unknown>, more: Partial<Words> = {}) => {
  const words: Words = { purpose: 'support', subject: 'A question', text, id: 'gentle', ...more };
  return misfits(words, { course, rules: [ruleOf({ name: 'The rule', ...draft })] }).map((c) => c.message);
};
const away = (value: number, ...after: number[]) => ({
  when: { measure: 'daysSinceVisit', is: '>=', value },
  ...(after.length > 0 && {
    steps: after.map((days) => ({ after: { days }, deliver: 'send', to: ['student'], wording: 'gentle' })),
  }),
});
const labOne = { when: { measure: 'completed', item: 'lab-1', is: 'equals', value: false } };

test.each([
  ['A week away is a long time.', away(10), ['“A week” does not fit: “The rule” finds students after 10 days']],
  ['You have been away for ten days.', away(10), []],
  ['You have been away for two weeks.', away(14), []],
  // Its second step comes five days later.
  ['You have been gone for 10 days.', away(5, 0, 5), []],
  ['You have been gone for 10 days.', away(5, 0), ['“10 days” does not fit: “The rule” finds students after 5 days']],
  ['Please reply within two days. I miss you.', away(5), []],
  [
    'A week away is easy to make up for Chart lab 1.',
    labOne,
    ['“A week” does not fit: “The rule” does not look for absence'],
  ],
  [
    'You were away for a week.',
    { when: { measure: 'longestGap', window: { last: { days: 3 } }, is: '>=', value: 7 } },
    [],
  ],
  ['It has been {{ student.days_since_visit }} since you were here.', away(5), []],
  [
    'Five discussions in a row!',
    { when: { measure: 'streak', of: 'done', group: 'Discussions', is: '>=', value: 3 } },
    ['“Five” does not fit: “The rule” looks for 3 in a row'],
  ],
  [
    'Your grade is below 50%.',
    { when: { measure: 'courseGrade', is: '<', value: 60 } },
    ['“below 50%” does not fit: “The rule” looks for 60%'],
  ],
  ['Your grade is below 60%.', { when: { measure: 'courseGrade', is: '<', value: 60 } }, []],
  ['Two scores under 60%.', { when: { measure: 'lowScores', than: 60, is: '>=', value: 2 } }, []],
  ['You have not completed it yet.', labOne, ['“The rule” is about Chart lab 1, and this text does not name it']],
  ['Chart lab 2 is not done.', labOne, ['“Chart lab 2” does not fit: “The rule” is about Chart lab 1']],
  ['{{ item.title }} is not done.', labOne, []],
  [
    'This is open: {{ student.missing_items }}.',
    labOne,
    ['“The rule” is about Chart lab 1, and this text does not name it'],
  ],
  ['This is open: {{ student.missing_items }}.', { when: { ...labOne.when, item: 'lab-3' } }, []],
  ['chart lab 1 is not done; Chart lab 2 can wait.', labOne, []],
  ['Please start: {{ link["lab-1"] }}', labOne, []],
] as const)('%s', (text, draft, messages) => {
  expect(said(text, draft)).toEqual(messages);
});

test('a length that is not so is mended by the field that says it', () => {
  const [found] = misfits(
    { purpose: 'support', subject: 'A week away', text: 'Hello' },
    { course, rules: [ruleOf(away(10))] },
  );
  expect(found!.mend!.words.subject).toBe('{{ student.days_since_visit | default: "some days" }} away');
});

test('words to oneself fit any rule', () => {
  expect(said('Away for a week.', away(10), { purpose: 'toMyself' })).toEqual([]);
});

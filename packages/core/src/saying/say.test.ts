/** What is read, asked, refused and offered where the table of sentences does not reach ([Y1] to [Y8]). */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { GRAMMAR_WORDS } from '../course/grammarWords.ts';
import { tokensOf } from '../course/spokenName.ts';
import { SAYING_COURSE } from '../testing/sayingCourse.ts';
import { spokenWords } from './parsers.ts';
import { saidFile } from './said.ts';
import { completionsOf } from './completions.ts';
import { say, type SayingOptions } from './say.ts';

const read = (text: string, options?: SayingOptions) => say(text, SAYING_COURSE, options);
const problemsOf = (text: string, options?: SayingOptions) =>
  read(text, options).problems.map((p) => [p.code, text.slice(p.from, p.to), p.near]);
const sentenceOf = (text: string) => saidFile(text, SAYING_COURSE).sentence;

test('[Y6] the words that names are held against are those that the grammar looks for', () => {
  const looked = [...spokenWords].filter((w) => /^[a-z]/.test(w)).sort();
  expect([...GRAMMAR_WORDS].sort()).toEqual(looked);
});

test('[Y8] an answer has the parts that were said and no others', () => {
  expect(saidFile('away 5 days, weekdays at 9:30, once each time, at most every 2 days', SAYING_COURSE)).toEqual({
    format: 'zest-bell/said@1',
    rule: {
      when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
      rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR' },
      repeat: { perSpell: 1, gap: { days: 2 } },
    },
    sentence:
      'every weekday at 9:30 AM, students who have not visited the course for 5 days, once each time and at most every 2 days',
    problems: [],
  });
  expect(saidFile('only where that begins after Oct 26, 8:02 AM', SAYING_COURSE).rule).toEqual({
    spellsFrom: '2026-10-26T08:02:00-04:00',
  });
});

test.each([
  ['away 5 days, syllabus not opened or missing 2 essays', 'any'],
  ['away 5 days, syllabus not opened and missing 2 essays', 'all'],
  ['either away 5 days or missing 2 essays', 'any'],
  ['away 5 days and missing 2 essays or under 60% on Quiz 1', 'any'],
  ['away 5 days and (missing 2 essays or under 60% on Quiz 1)', 'all'],
  ['away 5 days unless essay 1 turned in', 'all'],
])('[Y4] “%s” is joined by %s', (text, kind) => {
  expect(Object.keys(read(text).rule?.when ?? {})).toEqual([kind]);
});

test('a criterion that is not listed is read in quotation marks', () => {
  expect(read('under 3 points for “Method” on Essay 1').rule?.when).toEqual({
    measure: 'criterion',
    item: 'e1',
    criterion: 'Method',
    is: '<',
    value: 3,
  });
});

test('what was said is printed, and no more', () => {
  expect(sentenceOf('until they reply')).toBe('until they reply');
  expect(sentenceOf('Advisor is Okafor')).toBe('students who have “Okafor” in Advisor');
  expect(sentenceOf('less active than two weeks ago')).toBe(
    'students who have fewer visits in the last 14 days than before',
  );
});

test('[Y4] “not” is the negative of a clause where it has one, else none of it', () => {
  expect(sentenceOf('not turned in essay 1')).toBe('students who have not submitted Essay 1');
  expect(sentenceOf('not under 60% on Quiz 2')).toBe('students who do not match (scored under 60% on Quiz 2)');
  expect(sentenceOf("haven't opened the syllabus")).toBe('students who have never opened Syllabus walk-through');
});

test.each([
  ['under 60 on Quiz', 'Quiz', ['Quiz 1', 'Quiz 2', 'Quiz 12']],
  [
    'visited 3 times',
    'visited 3 times',
    ['have visited 3 times or more', 'have visited 3 times or less', 'have visited exactly 3 times'],
  ],
  ['twice', 'twice', ['2 times each time', 'at most 2 times this term']],
  ['once a week', 'once a week', ['every Monday at 9 AM', 'at most every 7 days']],
  ['every 14 days', 'every 14 days', ['every 14 days at 9 AM', 'at most every 14 days']],
])('[Y1][Y2][Y5] “%s” is asked', (text, words, near) => {
  expect(problemsOf(text)).toEqual([['ambiguous', words, near]]);
});

test.each<[string, unknown[], SayingOptions?]>([
  ['', [['nothing', '', []]]],
  [
    'never opened',
    [
      [
        'incomplete',
        'never opened',
        ['Syllabus walk-through', 'Reading: tides, currents, and wind', 'Quiz 1', 'Quiz 2', 'Quiz 12'],
      ],
    ],
  ],
  ['under 2000% on Quiz 2', [['refused', 'under 2000% on Quiz 2', ['At most 1,000']]]],
  ['weekdays at 9, every Monday', [['refused', 'every Monday', ['This is said twice.']]]],
  [
    'away 5 days, copy me',
    [['refused', 'copy me', ['This part has no place in this field.']]],
    { only: ['when', 'audience'] },
  ],
  [
    'every 2 weeks at noon',
    [['incomplete', 'every 2 weeks', ['on Monday', 'on Wednesday', 'on Friday', 'on weekdays']]],
  ],
  ['away 5 dais', [['unknownWord', 'dais', ['days']]]],
  ['students who luv cats', [['unknownWord', 'luv cats', []]]],
])('[Y7][Y8] “%s” has these problems', (text, problems, options) => {
  expect(problemsOf(text, options)).toEqual(problems);
});

test('[Y6] what stands in quotation marks is a name, curly or straight, with its closing mark doubled', () => {
  const quoted = tokensOf('“say ””hi”” now” and "a ""b"" c"').filter((t) => t.kind === 'quoted');
  expect(quoted.map((t) => t.text)).toEqual(['say ”hi” now', 'a "b" c']);
  expect(read('never opened "Syllabus walk-through"').rule).toEqual(read('never opened the syllabus').rule);
});

test('[Y2] a comparison is read in words and signs', () => {
  const is = (text: string) =>
    (read(`${text} in the course`).rule?.when as { is: string; value: number } | undefined)?.is;
  const said: readonly (readonly [string, readonly string[]])[] = [
    ['<', ['under 60%', 'below 60%', 'less than 60%', '< 60%']],
    ['<=', ['at most 60%', '60% or less', 'up to 60%', 'no more than 60%', '≤ 60%']],
    ['>', ['over 60%', 'above 60 percent', 'more than half', '> 60%']],
    ['>=', ['at least 60%', '60 or more', '≥ 60%']],
    ['equals', ['exactly 60%']],
  ];
  for (const [comparator, texts] of said) expect(texts.map(is)).toEqual(texts.map(() => comparator));
});

test('[Y3] times, dates and runs', () => {
  expect(read('every 3 hours from 9 am').rule?.rhythm).toEqual({
    start: '2026-08-31T09:00',
    rrule: 'FREQ=HOURLY;INTERVAL=3',
  });
  expect(read('monthly on the 1st').rule?.rhythm).toEqual({
    start: '2026-08-31T09:00',
    rrule: 'FREQ=MONTHLY;BYMONTHDAY=1',
  });
  expect(read('weekends at 18:00 from Sep 7 to 11/10').rule?.rhythm).toEqual({
    start: '2026-09-07T18:00',
    rrule: 'FREQ=WEEKLY;BYDAY=SA,SU',
    until: '2026-11-10',
  });
  expect(read('every other day').rule?.rhythm).toEqual({ start: '2026-08-31T09:00', rrule: 'FREQ=DAILY;INTERVAL=2' });
});

test('[Y1] what may follow: titles first; the last word is ended', () => {
  expect(completionsOf('never opened ', SAYING_COURSE)[0]).toBe('Syllabus walk-through');
  expect(completionsOf('never opened sy', SAYING_COURSE)).toEqual(['Syllabus walk-through']);
  expect(completionsOf('away 5 da', SAYING_COURSE).slice(0, 2)).toEqual(['day', 'days']);
  expect(completionsOf('never opened sylabos ', SAYING_COURSE)).toEqual([]);
});

test.each(['the ', '(', 'not ', '5 or more ', 'among Quiz 1, '])(
  '[Y7] “%s”, 250 times over, is read within two seconds of processor time',
  (words) => {
    read(words.repeat(20));
    const from = process.cpuUsage();
    read(words.repeat(250));
    const { user, system } = process.cpuUsage(from);
    expect(user + system).toBeLessThan(2_000_000);
  },
);

test('[Y7] it never throws, and gives a draft or problems', () => {
  const words = [
    ...GRAMMAR_WORDS,
    'Quiz',
    '1',
    '5',
    '60%',
    ',',
    '(',
    ')',
    '“',
    '"',
    'Oct',
    '24',
    '9:30',
    '-',
    '≥',
    'Essays',
    'zzz',
  ];
  const text = fc
    .array(fc.oneof({ weight: 9, arbitrary: fc.constantFrom(...words) }, fc.string()), { maxLength: 25 })
    .map((all) => all.join(' '));
  fc.assert(
    fc.property(text, (typed) => {
      const { rule, problems, spans } = read(typed);
      expect(rule === null).toBe(problems.length > 0);
      for (const { from, to } of [...problems, ...spans])
        expect(0 <= from && from <= to && to <= typed.length).toBe(true);
      for (const { near } of problems) expect(near.length).toBeLessThanOrEqual(5);
    }),
    { numRuns: 1000 },
  );
});

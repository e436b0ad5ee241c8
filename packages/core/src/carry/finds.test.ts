import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '../course/course.ts';
import { at, courseOf, item } from '../testing/build.ts';
import { findsIn, withFields } from './finds.ts';

const source = makeCourse({
  ...courseOf(),
  url: 'https://learn.saltmarsh.example/nav120',
  items: [
    item('q1', { title: 'Tide quiz', dueAt: at('2026-09-14T23:59'), url: 'https://learn.saltmarsh.example/nav120/q1' }),
    item('q9', { title: 'Harbor quiz', dueAt: at('2026-10-05T23:59') }),
  ],
});
const finding = { source, items: new Map([['q1', 'tide']]) };
const finds = (text: string) => findsIn(text, finding).map((f) => `${f.kind}: ${f.found}`);

describe('[K7] in a text of the old term is found', () => {
  test('its title and code as whole words, in any case', () => {
    expect(finds('Welcome to coastal  navigation (nav 120), not NAV 1201 or a CoastalNavigation.')).toEqual([
      'title: coastal  navigation',
      'code: nav 120',
    ]);
  });

  test('dates of its run, however they are written, and no others', () => {
    expect(finds('By 2026-09-14, September 14, Sept. 14, Sep 14th, 14 September or 9/14.')).toEqual([
      'date: 2026-09-14',
      'date: September 14',
      'date: Sept. 14',
      'date: Sep 14th',
      'date: 14 September',
      'date: 9/14',
    ]);
    expect(finds('Not 2026-08-30, August 30, 1/15, 9/31, 9/14/2025 or 3/4 of the class; 19/14.')).toEqual([
      'year: 2026',
    ]);
    expect(finds('Due September 14, 2026 (or 9/14/26).')).toEqual(['date: September 14, 2026', 'date: 9/14/26']);
    expect(finds('You may ask 14 times in May 2.')).toEqual([]);
  });

  test('a weekday beside such a date or a time alone', () => {
    expect(finds('On Monday, September 14 we meet.')).toEqual(['weekday: Monday', 'date: September 14']);
    expect(finds('Hand it in by Friday at 5 pm, or 9:30 on Tuesday.')).toEqual(['weekday: Friday', 'weekday: Tuesday']);
    expect(finds('We meet on Mondays. Friday is a holiday, August 1 too.')).toEqual([]);
  });

  test('its years, and seasons beside a year, “term” or “semester”', () => {
    expect(finds('In 2026, not in 12026 or 2025.')).toEqual(['year: 2026']);
    expect(finds('This fall term, Fall 2026, the semester of Spring; do not fall behind, winter is cold.')).toEqual([
      'season: fall term',
      'season: Fall 2026',
      'season: semester of Spring',
    ]);
  });

  test('links to its pages, whole', () => {
    expect(
      finds('See [the quiz](https://learn.saltmarsh.example/nav120/q1) or https://learn.saltmarsh.example/nav120.'),
    ).toEqual(['link: https://learn.saltmarsh.example/nav120/q1', 'link: https://learn.saltmarsh.example/nav120']);
    expect(finds('https://learn.saltmarsh.example/nav120/q12 and https://learn.saltmarsh.example/nav1200')).toEqual([]);
  });

  test('nothing in its chips', () => {
    expect(
      finds('{{ course.title | default: "Coastal Navigation" }} {% if course.code == "NAV 120" %}x{% endif %}'),
    ).toEqual([]);
  });

  test('each in its sentence, with the chip that says it for any term', () => {
    const text = 'Hello. In NAV 120 the quiz is due on September 14. The next one on October 5!\nBye.';
    expect(findsIn(text, finding)).toMatchObject([
      { before: 'In ', found: 'NAV 120', after: ' the quiz is due on September 14.', field: 'course.code' },
      { before: 'In NAV 120 the quiz is due on ', after: '.', field: 'due["tide"]' },
      // Its item has no match, so no chip can say it.
      { before: 'The next one on ', found: 'October 5', after: '!', field: null },
    ]);
    expect(withFields(text, findsIn(text, finding))).toBe(
      'Hello. In {{ course.code }} the quiz is due on {{ due["tide"] }}. The next one on October 5!\nBye.',
    );
  });

  test('a long text in no time, and a sentence without an end is cut', () => {
    const [find] = findsIn(`${'word '.repeat(200)}NAV 120 ${'word '.repeat(200)}`, finding);
    expect(find!.before.length).toBeLessThan(130);
    expect(find!.after.length).toBeLessThan(130);
    const many = findsIn('NAV 120, Monday, '.repeat(1000), finding);
    expect(many.length).toBe(1000);
  });
});

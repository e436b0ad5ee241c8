/** What is offered to somebody who types the name of an item or a group, and what a search for a measure finds. */
import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '@zest-bell/core/course';
import { parseCondition } from '@zest-bell/core/conditions';
import { CATALOGUE, MEASURE_FAMILIES, MEASURE_NAMES } from '@zest-bell/core/measures';
import { wordFilter } from '../../ui/wordFilter.ts';
import { course } from '../../testing/course.ts';
import { conditionsAbout } from './conditionsAbout.ts';
import { FAMILIES, MEASURE_HELP } from './measureWords.ts';

const page = {
  ...course.items[0]!,
  id: 'syllabus',
  title: 'Syllabus and quiz rules',
  kind: 'page' as const,
  points: null,
  group: null,
};
const withPage = makeCourse({ ...course, items: [...course.items, page] });
const offered = (typed: string, of = withPage) => conditionsAbout(of, typed).map((c) => `${c.name}: ${c.words}`);

describe('conditions about what is typed', () => {
  test('fit what the item is: work, a session, a page', () => {
    expect(offered('tide')).toEqual([
      'Tide tables quiz: have not submitted Tide tables quiz',
      'Tide tables quiz: scored 50% or less on Tide tables quiz',
      'Tide tables quiz: have never opened Tide tables quiz',
    ]);
    expect(offered('harbor')).toEqual(['Harbor walk: have not completed Harbor walk']);
    expect(offered('syllabus')).toEqual(['Syllabus and quiz rules: have never opened Syllabus and quiz rules']);
  });

  test('are of items whose title has every word, those that begin with it first, then of groups', () => {
    const names = (typed: string) => [...new Set(conditionsAbout(withPage, typed).map((c) => c.name))];
    expect(names('quiz')).toEqual(['Tide tables quiz', 'Chart quiz', 'Syllabus and quiz rules', 'Quizzes']);
    expect(names('chart')[0]).toBe('Chart quiz');
    expect(names('quiz tide')).toEqual(['Tide tables quiz']);
    expect(names('nothing like it')).toEqual([]);
  });

  test('are never more than can be read, and each can be asked as it stands', () => {
    const many = makeCourse({
      ...course,
      items: Array.from({ length: 40 }, (_, i) => ({ ...course.items[0]!, id: `q${i}`, title: `Quiz ${i}` })),
    });
    const found = conditionsAbout(many, 'quiz');
    expect(found).toHaveLength(12);
    expect(new Set(found.map((c) => c.key)).size).toBe(12);
    for (const { leaf } of found) expect(parseCondition(leaf, 'when').ok).toBe(true);
  });
});

describe('the menu of measures', () => {
  test('has help and other words for each, in a family that has a name', () => {
    for (const name of MEASURE_NAMES) {
      expect([name, MEASURE_HELP[name].help.length > 10, MEASURE_HELP[name].also.length > 3]).toEqual([
        name,
        true,
        true,
      ]);
      expect(FAMILIES[CATALOGUE[name].family]).toBeTruthy();
    }
    expect(Object.keys(FAMILIES).toSorted()).toEqual([...MEASURE_FAMILIES].toSorted());
  });

  test.each([
    ['login', ['daysSinceSignIn', 'visits']],
    ['deadline', ['hoursUntilDue', 'dueSoon']],
    ['rubric', ['criterion']],
    ['attendance', ['absences']],
    ['deadline tomorrow', ['dueSoon']],
  ] as const)('finds by “%s”', (typed, expected) => {
    const found = MEASURE_NAMES.filter((name) => {
      const { help, also } = MEASURE_HELP[name];
      return wordFilter(name, typed, [CATALOGUE[name].title, help, also]) > 0;
    });
    expect(found).toEqual(expect.arrayContaining([...expected]));
    expect(found.length).toBeLessThan(8);
  });
});

import { expect, test } from '@jest/globals';
import { spoken } from './spoken.ts';

test.each([
  ['{{ student.first_name | default: "Hello" }}, about {{ course.title }}', '‹first name›, about ‹course title›'],
  [
    'There is a page in {{ course.title }} called “{{ item.title }}”',
    'There is a page in ‹course title› called “‹item title›”',
  ],
  [
    'Look: ![pic](picture:43c8c8261070e77c) and [book](https://saltmarsh.example/book) **now**',
    'Look: (picture) and book now',
  ],
  ['{% if student.section %}Section {{ student.section }}{% endif %}.', 'Section ‹student section›.'],
  ['{{ }} {{nothing}}', '‹…› ‹…›'],
])('%s reads as %s', (text, words) => {
  expect(spoken(text)).toBe(words);
});

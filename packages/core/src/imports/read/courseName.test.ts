import { expect, test } from '@jest/globals';
import { proposedCourse } from './courseName.ts';

test.each([
  [['NAV 120 Coastal Navigation', 'Fall 2026'], 'grades.csv', 'NAV 120', 'Coastal Navigation'],
  [['NAV-120: Coastal Navigation'], 'x.csv', 'NAV 120', 'Coastal Navigation'],
  [['Fall 2026'], 'nav120_gradebook_2026-11-27.xlsx', 'NAV 120', ''],
  [['Coastal Navigation'], 'NAV120 grades.csv', 'NAV 120', 'Coastal Navigation'],
  [[], 'Coastal Navigation roster.csv', '', 'Coastal Navigation'],
  [[], 'grades.csv', '', ''],
])('%j in %s is “%s %s”', (titles, file, code, title) => {
  expect(proposedCourse(titles, file)).toEqual({ code, title });
});

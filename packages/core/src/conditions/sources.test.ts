import { expect, test } from '@jest/globals';
import { ruleOf } from '../testing/build.ts';
import { sourcesOf } from './sources.ts';

test.each<[object, readonly string[]]>([
  [{ measure: 'daysSinceVisit', is: '>=', value: 5 }, ['activity']],
  [{ measure: 'courseGrade', is: '<', value: 60 }, ['grades']],
  [{ measure: 'daysAwaitingGrade', item: 'q1', is: '>=', value: 7 }, ['activity', 'grades']],
  [{ measure: 'absences', is: '>=', value: 2 }, ['attendance']],
  [{ measure: 'field', name: 'boat', is: 'filled' }, ['roster']],
  [{ measure: 'daysEnrolled', is: '>=', value: 14 }, ['roster']],
  [
    {
      none: [
        { measure: 'absences', is: '>=', value: 2 },
        {
          any: [
            { measure: 'missing', is: '>=', value: 1 },
            { measure: 'score', item: 'q1', is: '<', value: 50 },
          ],
        },
      ],
    },
    ['activity', 'grades', 'attendance'],
  ],
])('a condition stands on the sources of its measures: %j', (when, sources) => {
  expect(sourcesOf(ruleOf({ when }).when)).toEqual(sources);
});

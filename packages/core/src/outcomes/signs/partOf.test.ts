import { expect, test } from '@jest/globals';
import { partOfOutcome } from './partOf.ts';

const below = { measure: 'courseGrade', is: '<', value: 60 } as const;

test('a sign of the same measure, or of the same grades, is part of the outcome; activity is not', () => {
  expect(partOfOutcome({ measure: 'courseGrade', is: '<=', value: 66 }, below)).toBe('measure');
  expect(partOfOutcome({ measure: 'score', item: 'q1', is: '<=', value: 50 }, below)).toBe('grades');
  expect(partOfOutcome({ measure: 'visits', is: '<=', value: 3 }, below)).toBeNull();
  const visits = { measure: 'visits', is: '<=', value: 3 } as const;
  const both = { all: [visits, { measure: 'lowScores', than: 60, is: '>=', value: 1 }] } as const;
  expect(partOfOutcome(both, below)).toBe('grades');
  expect(partOfOutcome(both, { measure: 'missing', is: '>=', value: 3 })).toBeNull();
});

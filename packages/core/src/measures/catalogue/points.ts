import { z } from 'zod';
import { itemGradeFact, itemGradeLine } from './itemGrade.ts';
import { comparisonWords, itemOf, type Measure } from '../values/measure.ts';

export const points: Measure = {
  name: 'points',
  mergeField: 'item.points',
  family: 'grades',
  unit: 'points',
  title: 'Points on an item',
  parameters: { item: z.string() },
  timeline: itemGradeLine,
  fact: itemGradeFact,
  label: (call, course) => `points on ${itemOf(course, call).title}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `${comparisonWords(test)} on ${itemOf(course, call).title}`,
  }),
};

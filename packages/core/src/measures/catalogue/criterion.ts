import { z } from 'zod';
import { itemGradeFact, itemGradeLine } from './itemGrade.ts';
import { comparisonWords, itemOf, type Measure } from '../values/measure.ts';

export const criterion: Measure = {
  name: 'criterion',
  mergeField: 'item.criterion',
  family: 'grades',
  unit: 'points',
  title: 'Points for a rubric criterion',
  parameters: { item: z.string(), criterion: z.string().min(1) },
  timeline: itemGradeLine,
  fact: itemGradeFact,
  label: (call, course) => `points for ${call.criterion} on ${itemOf(course, call).title}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `${comparisonWords(test)} for ${call.criterion} on ${itemOf(course, call).title}`,
  }),
};

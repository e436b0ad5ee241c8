import { z } from 'zod';
import { itemGradeFact, itemGradeLine } from './itemGrade.ts';
import { comparisonWords, itemOf, type Measure, spokenItem } from '../values/measure.ts';
import { spokenName } from '../../course/spokenName.ts';

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
    marked: `${comparisonWords(test)} for ${spokenName(course, 'criterion', call.criterion!)} on ${spokenItem(course, call)}`,
  }),
  known: (call, course) => {
    const where = `for ${spokenName(course, 'criterion', call.criterion!)} on ${spokenItem(course, call)}`;
    return [`no points yet ${where}`, `points ${where}`];
  },
  phrases: [
    '{n:points} for {criterion} on {item}',
    { say: 'no points [yet] for {criterion} on {item}', is: 'empty' },
    { say: 'points for {criterion} on {item}', is: 'filled' },
  ],
};

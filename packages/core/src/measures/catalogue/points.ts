import { z } from 'zod';
import { itemGradeFact, itemGradeLine } from './itemGrade.ts';
import { comparisonWords, itemOf, type Measure, spokenItem } from '../values/measure.ts';

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
  clause: (test, call, course) => ({ lead: 'have', marked: `${comparisonWords(test)} on ${spokenItem(course, call)}` }),
  known: (call, course) => [`no points yet on ${spokenItem(course, call)}`, `points on ${spokenItem(course, call)}`],
  phrases: [
    '[scored] {n:points!} on|for|in {item}',
    { say: 'no points [yet] on {item}', is: 'empty' },
    { say: 'points on {item}', is: 'filled' },
  ],
};

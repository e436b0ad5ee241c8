import { z } from 'zod';
import { GradeTally, gradeLine } from './courseGrade.ts';
import { comparisonWords, type Measure } from '../values/measure.ts';

/** The course grade's points within one group. */
export const groupGrade: Measure = {
  name: 'groupGrade',
  mergeField: 'student.group_grade',
  family: 'grades',
  unit: 'percent',
  title: 'Grade within a group',
  parameters: { group: z.string() },
  timeline: (subject, call) => gradeLine(subject, (tally) => tally.groupValue(call.group!)),
  fact(subject, call, t) {
    const totals = GradeTally.at(subject, t).totals(call.group);
    return totals.graded === 0 ? { kind: 'ungraded' } : { kind: 'total', ...totals };
  },
  label: (call) => `grade in ${call.group}`,
  clause: (test, call) => ({
    lead: 'have',
    marked: `a grade in ${call.group} of ${comparisonWords(test)}`
      .replace('of over', 'over')
      .replace('of under', 'under'),
  }),
};

import { z } from 'zod';
import { GradeTally, gradeLine } from './courseGrade.ts';
import { type Measure, ofWords } from '../values/measure.ts';
import { spokenName } from '../../course/spokenName.ts';

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
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `a grade in ${spokenName(course, 'group', call.group!)} ${ofWords(test)}`,
  }),
  known: (call, course) => {
    const group = spokenName(course, 'group', call.group!);
    return [`no grade yet in ${group}`, `a grade in ${group}`];
  },
  phrases: [
    '[course] grade in|for {group} [of|is] {n:%}',
    { say: 'no grade [yet] in {group}', is: 'empty' },
    { say: 'grade in {group}', is: 'filled' },
    '[scored|with|at] {n:%} in {group}',
    '{group} grade [of|is] {n:%}',
  ],
};

import { z } from 'zod';
import { counts, dueFor } from '../../course/course.ts';
import { comparisonWords, itemOf, type Measure } from '../values/measure.ts';
import { constantly, NOT_APPLICABLE } from '../values/timeline.ts';

/** Hours until an item is due for this student; negative once past. */
export const hoursUntilDue: Measure = {
  name: 'hoursUntilDue',
  mergeField: 'item.hours_until_due',
  family: 'work',
  unit: 'hours',
  title: 'Hours until an item is due',
  parameters: { item: z.string() },
  timeline(subject, call) {
    const item = itemOf(subject.course, call);
    if (!counts(item, subject.person)) return NOT_APPLICABLE;
    const due = dueFor(item, subject.person);
    if (due === null) return constantly(subject.story, null);
    return { kind: 'countdown', from: subject.story, due };
  },
  fact(subject, call) {
    const item = itemOf(subject.course, call);
    if (!counts(item, subject.person)) return { kind: 'doesNotCount' };
    return { kind: 'due', at: dueFor(item, subject.person) };
  },
  label: (call, course) => `hours until ${itemOf(course, call).title} is due`,
  clause(test, call, course) {
    const title = itemOf(course, call).title;
    if (typeof test.raw === 'number' && test.raw === 0) {
      if (test.is === '<' || test.is === '<=') return { lead: 'are', marked: `past the due date of ${title}` };
      if (test.is === '>' || test.is === '>=') return { lead: 'are', marked: `not past the due date of ${title}` };
    }
    if (test.is === '<=' || test.is === '<') return { lead: 'have', marked: `${title} due within ${test.value}` };
    return { lead: 'have', marked: `${title} due in ${comparisonWords(test)}` };
  },
};

import { z } from 'zod';
import { counts, dueFor } from '../../course/course.ts';
import { comparisonWords, itemOf, type Measure, spokenItem } from '../values/measure.ts';
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
    const title = spokenItem(course, call);
    if (test.raw === 0) {
      const when = { '<': 'past', '<=': 'at or past', '>': 'before', '>=': 'not past' } as const;
      if (test.is in when) return { lead: 'are', marked: `${when[test.is as '<']} the due date of ${title}` };
    }
    if (test.is === '<=') return { lead: 'have', marked: `${title} due within ${test.value}` };
    return { lead: 'have', marked: `${title} due in ${comparisonWords(test)}` };
  },
  known: (call, course) => [
    `no due date for ${spokenItem(course, call)}`,
    `a due date for ${spokenItem(course, call)}`,
  ],
  phrases: [
    { say: '{item} due within {x:hours}', is: '<=' },
    '{item} due in {n:hours}',
    { say: 'past due date of|for {item}', is: '<', value: 0 },
    { say: 'at or past due date of|for {item}', is: '<=', value: 0 },
    { say: 'before due date of|for {item}', is: '>', value: 0 },
    { say: 'not past due date of|for {item}', is: '>=', value: 0 },
    { say: 'no due date for {item}', is: 'empty' },
    { say: 'due date for {item}', is: 'filled' },
    { say: '{item} past due', is: '<', value: 0 },
  ],
};

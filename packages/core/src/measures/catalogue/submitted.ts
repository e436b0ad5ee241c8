import { z } from 'zod';
import { counts } from '../../course/course.ts';
import { itemIndexOf, itemOf, type Measure, spokenItem } from '../values/measure.ts';
import { NOT_APPLICABLE, yesSince } from '../values/timeline.ts';
import { doneOf } from './work.ts';

const VERB = {
  assignment: 'submitted',
  quiz: 'submitted',
  forum: 'posted in',
  practice: 'practiced',
  page: 'done with',
  session: 'attended',
} as const;

/** Whether an item is done (engine H7). */
export const submitted: Measure = {
  name: 'submitted',
  mergeField: 'item.done',
  family: 'work',
  unit: 'yesNo',
  title: 'An item is submitted or done',
  parameters: { item: z.string() },
  timeline(subject, call) {
    if (!counts(itemOf(subject.course, call), subject.person)) return NOT_APPLICABLE;
    return yesSince(doneOf(subject)[itemIndexOf(subject.course, call)]!, subject.story);
  },
  fact(subject, call, t) {
    if (!counts(itemOf(subject.course, call), subject.person)) return { kind: 'doesNotCount' };
    const at = doneOf(subject)[itemIndexOf(subject.course, call)]!;
    return { kind: 'done', what: 'submission', at: at <= t ? at : null };
  },
  label: (call, course) => `${itemOf(course, call).title} done`,
  clause(test, call, course) {
    const yes = (test.is === 'equals') === (test.raw === true);
    const verb = VERB[itemOf(course, call).kind];
    return { lead: 'have', marked: `${yes ? '' : 'not '}${verb} ${spokenItem(course, call)}` };
  },
  known: (call, course) => [`no record of ${spokenItem(course, call)}`, `a record of ${spokenItem(course, call)}`],
  phrases: [
    ...[
      'submitted|submit',
      'turned|turn|handed|hand in',
      'done [with]',
      'posted|post in',
      'practiced|practice',
      'attended|attend',
    ].flatMap((verb) => [
      { say: `not|never ${verb} {item}`, is: 'equals', value: false } as const,
      { say: `${verb} {item}`, is: 'equals', value: true } as const,
    ]),
    { say: 'no record of {item}', is: 'empty' },
    { say: 'record of {item}', is: 'filled' },
    { say: '{item} not|never turned|handed in', is: 'equals', value: false },
    { say: '{item} turned|handed in', is: 'equals', value: true },
    { say: '{item} not submitted|done|posted', is: 'equals', value: false },
    { say: '{item} submitted|done|posted', is: 'equals', value: true },
    { say: 'missing {item}', is: 'equals', value: false },
  ],
};

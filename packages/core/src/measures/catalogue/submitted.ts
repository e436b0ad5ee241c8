import { z } from 'zod';
import { counts } from '../../course/course.ts';
import { itemIndexOf, itemOf, type Measure } from '../values/measure.ts';
import { NOT_APPLICABLE, yesSince } from '../values/timeline.ts';
import { doneOf } from './work.ts';

const VERB = {
  assignment: 'submitted',
  quiz: 'submitted',
  forum: 'posted in',
  practice: 'practiced',
  page: 'opened',
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
    const item = itemOf(course, call);
    const verb = VERB[item.kind];
    if (test.is === 'empty' || test.is === 'filled') return { lead: 'have', marked: `${item.title} ${test.is}` };
    const yes = (test.is === 'equals') === (test.raw === true);
    return { lead: 'have', marked: `${yes ? '' : 'not '}${verb} ${item.title}` };
  },
};

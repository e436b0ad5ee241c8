import { z } from 'zod';
import { kindMask } from '../../activity/event.ts';
import { counts } from '../../course/course.ts';
import { itemIndexOf, itemOf, type Measure, type MeasureCall, type Subject, spokenItem } from '../values/measure.ts';
import type { ItemKind } from '../../course/item.ts';
import { NOT_APPLICABLE, yesSince } from '../values/timeline.ts';
import { doneOf } from './work.ts';

const COMPLETE = kindMask('complete');

/** Few platforms send completions of these: what is done is completed (engine M3). A page that was opened is not. */
const COMPLETED_WHEN_DONE: readonly ItemKind[] = ['assignment', 'quiz', 'forum', 'session'];

function completedAt(subject: Subject, call: MeasureCall): number {
  if (call.item === undefined) return subject.log.first(COMPLETE, -1);
  const index = itemIndexOf(subject.course, call);
  const told = subject.log.first(COMPLETE, index);
  const done = COMPLETED_WHEN_DONE.includes(subject.course.items[index]!.kind);
  return done ? Math.min(told, doneOf(subject)[index]!) : told;
}

const doesNotCount = (subject: Subject, call: MeasureCall): boolean =>
  call.item !== undefined && !counts(itemOf(subject.course, call), subject.person);

/** Whether the item, or the course, was completed. */
export const completed: Measure = {
  name: 'completed',
  mergeField: 'student.completed',
  family: 'work',
  unit: 'yesNo',
  title: 'The course or an item is completed',
  parameters: { item: z.string().optional() },
  timeline(subject, call) {
    if (doesNotCount(subject, call)) return NOT_APPLICABLE;
    return yesSince(completedAt(subject, call), subject.story);
  },
  fact(subject, call, t) {
    if (doesNotCount(subject, call)) return { kind: 'doesNotCount' };
    const at = completedAt(subject, call);
    return { kind: 'done', what: 'completion', at: at <= t ? at : null };
  },
  label: (call, course) => `${call.item === undefined ? 'course' : itemOf(course, call).title} completed`,
  clause(test, call, course) {
    const yes = (test.is === 'equals') === (test.raw === true);
    return { lead: 'have', marked: `${yes ? '' : 'not '}completed ${whatWords(call, course)}` };
  },
  known: (call, course) => [
    `no record of completion for ${whatWords(call, course)}`,
    `a record of completion for ${whatWords(call, course)}`,
  ],
  phrases: ['{item}', 'course'].flatMap((what) => [
    { say: `not completed|complete|finished|finish ${what}`, is: 'equals', value: false } as const,
    { say: `completed|finished ${what}`, is: 'equals', value: true } as const,
    { say: `no record of completion for ${what}`, is: 'empty' } as const,
    { say: `record of completion for ${what}`, is: 'filled' } as const,
  ]),
};

const whatWords = (call: MeasureCall, course: Subject['course']): string =>
  call.item === undefined ? 'the course' : spokenItem(course, call);

import { z } from 'zod';
import { comparisonWords, type Measure, type MeasureCall, type Subject } from '../values/measure.ts';
import { countingItems, doneBy, type CountingItem } from './several.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { spokenName } from '../../course/spokenName.ts';

/** The group's items that count and have a due instant, the most recently due last; of equals the later in the course. */
const dueOrder = (subject: Subject, call: MeasureCall): (CountingItem & { due: number })[] =>
  countingItems(subject, call)
    .filter((i): i is CountingItem & { due: number } => i.due !== null)
    .sort((a, b) => a.due - b.due || a.index - b.index);

/** Back from the most recently due item at t: the items of the unbroken run of done (or not done) ones. */
function runAt(items: readonly (CountingItem & { due: number })[], call: MeasureCall, t: number): CountingItem[] {
  const run: CountingItem[] = [];
  for (let i = items.length - 1; i >= 0; i--) {
    const item = items[i]!;
    if (item.due > t) continue;
    if (doneBy(item, t) !== (call.of === 'done')) break;
    run.push(item);
  }
  return run.reverse();
}

export const streak: Measure = {
  name: 'streak',
  mergeField: 'student.streak',
  family: 'work',
  unit: 'count',
  title: 'Items in a row, done or missed',
  parameters: { of: z.enum(['done', 'missed']), group: z.string() },
  timeline(subject, call) {
    const items = dueOrder(subject, call);
    const moments = new Set([subject.story]);
    for (const i of items) {
      for (const t of [i.due, Math.min(i.act, i.credit)]) if (t > subject.story && t < Infinity) moments.add(t);
    }
    const steps = new NumbersBuilder();
    for (const t of [...moments].sort((a, b) => a - b)) steps.set(t, runAt(items, call, t).length);
    return steps.build();
  },
  fact: (subject, call, t) => ({
    kind: 'items',
    what: 'run',
    items: runAt(dueOrder(subject, call), call, t).map((i) => ({ title: i.title, dueAt: i.due })),
  }),
  label: (call) => `${call.of === 'done' ? 'done' : 'missed'} in a row in ${call.group}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `${call.of!} ${comparisonWords(test)} in a row in ${spokenName(course, 'group', call.group!)}`,
  }),
  known: (call, course) => {
    const what = `${call.of!} in a row in ${spokenName(course, 'group', call.group!)}`;
    return [`no known number ${what}`, `a known number ${what}`];
  },
  phrases: (['done', 'missed'] as const).flatMap((of) => [
    { say: `${of} {n:} in row in {group}`, of },
    { say: `no known number ${of} in row in {group}`, of, is: 'empty' } as const,
    { say: `known number ${of} in row in {group}`, of, is: 'filled' } as const,
    { say: `${of} {n:} {group} in row`, of },
  ]),
};

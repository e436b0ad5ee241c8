import { z } from 'zod';
import { HOUR } from '../time/instant.ts';
import { plural } from '../time/words.ts';
import { comparisonWords, type Measure, type MeasureCall } from './measure.ts';
import { countingItems, doneBy, severalParameters, severalWords } from './several.ts';
import { openStretches } from './openStretches.ts';

const span = (call: MeasureCall): number => Math.round((call.hours ?? 0) * HOUR);

/** Items that count, are not done, and fall due within that many hours: t < due ≤ t + hours. */
export const dueSoon: Measure = {
  name: 'dueSoon',
  mergeField: 'student.due_soon_count',
  family: 'work',
  unit: 'count',
  title: 'Items due soon and not done',
  parameters: { hours: z.number().positive().max(87_840, 'At most ten years'), ...severalParameters },
  timeline(subject, call) {
    const items = countingItems(subject, call);
    const open = openStretches();
    for (const item of items) {
      if (item.due === null) continue;
      const from = item.due - span(call);
      const until = Math.min(item.due, item.act, item.credit);
      if (until > from) open.add(from, until);
    }
    return open.stepsFrom(subject.story);
  },
  fact: (subject, call, t) => ({
    kind: 'items',
    what: 'dueSoon',
    items: countingItems(subject, call)
      .filter((i) => i.due !== null && t < i.due && i.due <= t + span(call) && !doneBy(i, t))
      .map((i) => ({ title: i.title, dueAt: i.due })),
  }),
  label: (call, course) => `items due within ${plural(call.hours ?? 0, 'hour')}${severalWords(call, course)}`,
  clause(test, call, course) {
    const where = `due within ${plural(call.hours ?? 0, 'hour')} and not done${severalWords(call, course)}`;
    if (test.is === '>=' && test.raw === 1) return { lead: 'have', marked: `something ${where}` };
    const value = typeof test.raw === 'number' ? plural(test.raw, 'item') : test.value;
    return { lead: 'have', marked: `${comparisonWords({ ...test, value })} ${where}` };
  },
};

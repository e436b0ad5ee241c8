import { plural } from '../../time/words.ts';
import { comparisonWords, type Measure } from '../values/measure.ts';
import { countingItems, severalParameters, severalWords } from './several.ts';
import { openStretches } from '../values/openStretches.ts';

/** Items that count and were done after their due instant. */
export const late: Measure = {
  name: 'late',
  mergeField: 'student.late_count',
  family: 'work',
  unit: 'count',
  title: 'Items turned in late',
  parameters: severalParameters,
  timeline(subject, call) {
    const items = countingItems(subject, call);
    const late = openStretches();
    for (const i of items) if (i.due !== null && i.act > i.due) late.add(i.act, Infinity);
    return late.stepsFrom(subject.story);
  },
  fact: (subject, call, t) => ({
    kind: 'items',
    what: 'late',
    items: countingItems(subject, call)
      .filter((i) => i.due !== null && i.act > i.due && i.act <= t)
      .map((i) => ({ title: i.title, dueAt: i.due })),
  }),
  label: (call, course) => `items turned in late${severalWords(call, course)}`,
  clause(test, call, course) {
    const where = severalWords(call, course);
    if (test.is === '>=' && typeof test.raw === 'number')
      return { lead: 'turned in', marked: `${test.raw} or more items late${where}` };
    const value = typeof test.raw === 'number' ? plural(test.raw, 'item') : test.value;
    return { lead: 'turned in', marked: `${comparisonWords({ ...test, value })} late${where}` };
  },
};

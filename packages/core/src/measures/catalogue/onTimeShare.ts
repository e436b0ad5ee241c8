import { comparisonWords, type Measure } from '../values/measure.ts';
import { countingItems, onTimeBy, severalParameters, severalWords, type CountingItem } from './several.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { percent } from '../values/value.ts';

const shareAt = (items: readonly CountingItem[], t: number): number | null => {
  const due = items.filter((i) => i.due !== null && i.due <= t);
  return due.length === 0 ? null : percent(due.filter((i) => onTimeBy(i, t)).length, due.length);
};

/** Of the items that count and are due, the share done at or before the due instant. */
export const onTimeShare: Measure = {
  name: 'onTimeShare',
  mergeField: 'student.on_time_share',
  family: 'work',
  unit: 'percent',
  title: 'Share of work turned in on time',
  parameters: severalParameters,
  timeline(subject, call) {
    const items = countingItems(subject, call);
    const moments = new Set([subject.story]);
    for (const i of items) {
      if (i.due === null) continue;
      for (const t of [i.due, i.act, i.credit]) if (t > subject.story && t < Infinity) moments.add(t);
    }
    const steps = new NumbersBuilder();
    for (const t of [...moments].sort((a, b) => a - b)) steps.set(t, shareAt(items, t));
    return steps.build();
  },
  fact: (subject, call, t) => ({
    kind: 'items',
    what: 'onTime',
    items: countingItems(subject, call)
      .filter((i) => i.due !== null && i.due <= t && onTimeBy(i, t))
      .map((i) => ({ title: i.title, dueAt: i.due })),
  }),
  label: (call, course) => `share on time${severalWords(call, course)}`,
  clause: (test, call, course) => ({
    lead: 'turned in',
    marked: `${comparisonWords(test)} on time${severalWords(call, course)}`,
  }),
  known: (call, course) => [
    `no known share on time${severalWords(call, course)}`,
    `a known share on time${severalWords(call, course)}`,
  ],
  phrases: [
    '[turned in] {n:%} on time {several}',
    { say: 'no known share on time {several}', is: 'empty' },
    { say: 'known share on time {several}', is: 'filled' },
    'turned in {n:%} of {group} on time',
  ],
};

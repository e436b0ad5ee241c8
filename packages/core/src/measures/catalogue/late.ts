import { type Measure, countWords } from '../values/measure.ts';
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
  clause: (test, call, course) => ({
    lead: 'turned in',
    marked: `${countWords(test, 'item')} late${severalWords(call, course)}`,
  }),
  known: (call, course) => [
    `no known late items${severalWords(call, course)}`,
    `a known number of late items${severalWords(call, course)}`,
  ],
  phrases: [
    '[turned in] {n:item|items} late {several}',
    { say: 'no known late items {several}', is: 'empty' },
    { say: 'known number of late items {several}', is: 'filled' },
    { say: 'nothing late {several}', is: '<', value: 1 },
    { say: '[turned in] something|anything late {several}', is: '>=', value: 1 },
    '{n:} late item|items|submission|submissions {several}',
    '{n:} late {several}',
    '{n:} late {group} {more}',
    '{n:} {group} late',
  ],
};

import {
  severalItems,
  type Measure,
  type MeasureCall,
  type Subject,
  countWords,
  isForNone,
} from '../values/measure.ts';
import { severalParameters, severalWords } from './several.ts';
import { openStretches } from '../values/openStretches.ts';
import { dutiesOf, doneOf } from './work.ts';

/** The items that are missing for a while: due before they are done. */
function missingItems(subject: Subject, call: MeasureCall): number[] {
  const { due, counts } = dutiesOf(subject);
  const done = doneOf(subject);
  return severalItems(subject.course, call).filter((i) => counts[i] === 1 && done[i]! > due[i]!);
}

/** How many items that count are past due and not done. */
export const missing: Measure = {
  name: 'missing',
  mergeField: 'student.missing_count',
  family: 'work',
  unit: 'count',
  title: 'Missing items',
  parameters: severalParameters,
  timeline(subject, call) {
    const { due, counts } = dutiesOf(subject);
    const done = doneOf(subject);
    const open = openStretches();
    for (const i of severalItems(subject.course, call)) {
      if (counts[i] === 1 && done[i]! > due[i]!) open.add(due[i]!, done[i]!);
    }
    return open.stepsFrom(subject.story);
  },
  fact(subject, call, t) {
    const { due } = dutiesOf(subject);
    const done = doneOf(subject);
    return {
      kind: 'items',
      what: 'missing',
      items: missingItems(subject, call)
        .filter((i) => due[i]! <= t && t < done[i]!)
        .map((i) => ({ title: subject.course.items[i]!.title, dueAt: due[i]! })),
    };
  },
  label: (call, course) => `missing items${severalWords(call, course)}`,
  clause(test, call, course) {
    const where = severalWords(call, course);
    if (isForNone(test)) return { lead: 'have', marked: `nothing missing${where}` };
    if (test.is === '>=' && test.raw === 1) return { lead: 'have', marked: `something missing${where}` };
    return { lead: 'have', marked: `${countWords(test, 'missing item')}${where}` };
  },
  known: (call, course) => [
    `no known missing items${severalWords(call, course)}`,
    `a known number of missing items${severalWords(call, course)}`,
  ],
  phrases: [
    '{n:missing item|items} {several}',
    { say: 'nothing missing {several}', is: '<', value: 1 },
    { say: 'something|anything missing {several}', is: '>=', value: 1 },
    { say: 'no known missing items {several}', is: 'empty' },
    { say: 'known number of missing items {several}', is: 'filled' },
    { say: 'no missing items|work {several}', is: '<', value: 1 },
    { say: 'missing nothing {several}', is: '<', value: 1 },
    { say: 'missing something|anything|work {several}', is: '>=', value: 1 },
    'missing {n:item|items|assignment|assignments} {several}',
    'missing {n:} {group} {more}',
    '{n:item|items|assignment|assignments} missing {several}',
    '{n:} missing {several}',
    '{n:} missing {group} {more}',
    '{n:} {group} {more} missing',
  ],
};

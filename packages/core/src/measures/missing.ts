import { counts, dueFor } from '../course/course.ts';
import { plural } from '../time/words.ts';
import { doneAt } from './done.ts';
import { comparisonWords, severalItems, type Measure, type MeasureCall, type Subject } from './measure.ts';
import { severalParameters, severalWords } from './several.ts';
import { countSteps } from './timeline.ts';

/** From when until when each item that counts is missing for the student. */
function spans(subject: Subject, call: MeasureCall): { item: number; from: number; until: number }[] {
  return severalItems(subject.course, call).flatMap((item) => {
    const it = subject.course.items[item]!;
    const due = dueFor(it, subject.person);
    if (due === null || !counts(it, subject.person)) return [];
    const until = doneAt(subject, item);
    return until > due ? [{ item, from: due, until }] : [];
  });
}

/** How many items that count are past due and not done. */
export const missing: Measure = {
  name: 'missing',
  mergeField: 'student.missing_count',
  family: 'work',
  unit: 'count',
  title: 'Missing items',
  parameters: severalParameters,
  timeline: (subject, call) =>
    countSteps(
      subject.story,
      spans(subject, call).flatMap((s): [number, number][] => [
        [s.from, 1],
        [s.until, -1],
      ]),
    ),
  fact: (subject, call, t) => ({
    kind: 'items',
    what: 'missing',
    items: spans(subject, call)
      .filter((s) => s.from <= t && t < s.until)
      .map((s) => ({ title: subject.course.items[s.item]!.title, dueAt: s.from })),
  }),
  label: (call, course) => `missing items${severalWords(call, course)}`,
  clause(test, call, course) {
    const where = severalWords(call, course);
    if ((test.is === 'equals' && test.raw === 0) || (test.is === '<' && test.raw === 1)) {
      return { lead: 'have', marked: `nothing missing${where}` };
    }
    if (test.is === '>=' && test.raw === 1) return { lead: 'have', marked: `something missing${where}` };
    const value = typeof test.raw === 'number' ? plural(test.raw, 'missing item') : test.value;
    if (test.is === '>=' && typeof test.raw === 'number')
      return { lead: 'have', marked: `${test.raw} or more missing items${where}` };
    return { lead: 'have', marked: `${comparisonWords({ ...test, value })}${where}` };
  },
};

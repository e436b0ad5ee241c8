import { z } from 'zod';
import { comparisonWords, type Measure, type Subject } from '../values/measure.ts';
import { constantly } from '../values/timeline.ts';
import type { Value } from '../values/value.ts';
import { spokenName, quoted } from '../../course/spokenName.ts';

/** A trimmed plain decimal: sign, digits, point and digits, the first and last optional (engine M3). */
const DECIMAL = /^[+-]?\d+(\.\d+)?$/;

export const isDecimal = (text: string): boolean => DECIMAL.test(text.trim());

/** A text that is a plain decimal reads as a number, a blank one as nothing. */
export function readColumn(raw: string | number | undefined): Exclude<Value, boolean> {
  if (raw === undefined) return null;
  if (typeof raw === 'number') return raw;
  const text = raw.trim();
  if (text === '') return null;
  return isDecimal(text) ? Number(text) : text;
}

const valueOf = (subject: Subject, name: string): Value =>
  readColumn(Object.hasOwn(subject.person.fields, name) ? subject.person.fields[name] : undefined);

/** An imported column's value: the same at every instant, as it is known today (engine H3). */
export const field: Measure = {
  name: 'field',
  mergeField: 'student.column',
  family: 'columns',
  unit: 'text',
  title: 'A column of your own',
  parameters: { name: z.string().min(1) },
  timeline: (subject, call) => constantly(subject.story, valueOf(subject, call.name!)),
  fact(subject, call) {
    const value = valueOf(subject, call.name!);
    return { kind: 'column', name: call.name!, text: value === null ? null : String(value) };
  },
  label: (call) => call.name ?? '',
  clause(test, call, course) {
    const column = spokenName(course, 'column', call.name!);
    if (typeof test.raw !== 'string') return { lead: 'have', marked: `${comparisonWords(test)} in ${column}` };
    const value = quoted(test.raw);
    if (test.is === 'equals') return { lead: 'have', marked: `${value} in ${column}` };
    return { lead: 'have', marked: `${comparisonWords({ ...test, value })} in ${column}` };
  },
  known: (call, course) => {
    const column = spokenName(course, 'column', call.name!);
    return [`nothing in ${column}`, `something in ${column}`];
  },
  phrases: [
    { say: '{quoted} in {column}', is: 'equals' },
    { say: 'something with {quoted} in {column}', is: 'contains' },
    { say: 'anything but {quoted} in {column}', is: 'differs' },
    '{n:} in {column}',
    { say: 'nothing in {column}', is: 'empty' },
    { say: 'something|anything in {column}', is: 'filled' },
    { say: '{column} [is] {text}', is: 'equals' },
    '{column} [is] {n:}',
  ],
};

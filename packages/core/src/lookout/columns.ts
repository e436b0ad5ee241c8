/** What is in the columns of the table of students: measures with their parameters, what the log knows, and rules. */
import { z } from 'zod';
import { leafSchemas } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import { callKey } from '../measures/values/callKey.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import type { MeasureCall, MeasureUnit } from '../measures/values/measure.ts';

export const LOG_COLUMNS = ['lastNudge', 'nudgesThisTerm', 'replied', 'cameBack', 'heldBack'] as const;
export type LogColumn = (typeof LOG_COLUMNS)[number];

export type LookoutColumn =
  | { readonly kind: 'measure'; readonly call: MeasureCall }
  | { readonly kind: 'log'; readonly log: LogColumn }
  /** Since when each student matches one of the course's rules. */
  | { readonly kind: 'rule'; readonly rule: string };

export const measureColumnOf = (call: MeasureCall): LookoutColumn => ({ kind: 'measure', call });
export const logColumnOf = (log: LogColumn): LookoutColumn => ({ kind: 'log', log });
export const ruleColumnOf = (rule: string): LookoutColumn => ({ kind: 'rule', rule });

/** Names of the course's rules by their ids. */
export type RuleNames = ReadonlyMap<string, string>;

/** One name a column, the same for the same measure with the same parameters. */
export function columnKey(column: LookoutColumn): string {
  if (column.kind === 'rule') return `rule ${column.rule}`;
  return column.kind === 'log' ? `log ${column.log}` : callKey(column.call);
}

interface LogColumnWords {
  readonly title: string;
  readonly unit: MeasureUnit;
  /** After "students who …". */
  readonly about: string;
}

export const LOG_COLUMN_WORDS: Readonly<Record<LogColumn, LogColumnWords>> = {
  lastNudge: { title: 'Last nudge, days ago', unit: 'days', about: 'were last nudged' },
  nudgesThisTerm: { title: 'Nudges this term', unit: 'count', about: 'were nudged this term' },
  replied: { title: 'Replied', unit: 'yesNo', about: 'replied to a nudge' },
  cameBack: { title: 'Came back after last nudge', unit: 'yesNo', about: 'came back after their last nudge' },
  heldBack: { title: 'Times held back', unit: 'count', about: 'were held back by a limit' },
};

export function unitOf(column: LookoutColumn): MeasureUnit {
  if (column.kind === 'rule') return 'days';
  return column.kind === 'log' ? LOG_COLUMN_WORDS[column.log].unit : CATALOGUE[column.call.measure].unit;
}

export function columnTitle(column: LookoutColumn, course: Course, rules: RuleNames = new Map()): string {
  if (column.kind === 'rule') return rules.get(column.rule) ?? 'A rule that is gone';
  return column.kind === 'log'
    ? LOG_COLUMN_WORDS[column.log].title
    : CATALOGUE[column.call.measure].label(column.call, course);
}

/** A measure with its parameters, without a comparison: read as the leaf that asks whether it has any value. */
const callSchema = z.unknown().transform((draft, ctx): MeasureCall => {
  const filled = typeof draft === 'object' && draft !== null ? { ...draft, is: 'filled' } : draft;
  for (const schema of leafSchemas()) {
    const parsed = schema.safeParse(filled);
    if (!parsed.success) continue;
    const { is: _is, value: _value, ...call } = parsed.data;
    return call;
  }
  ctx.addIssue({ code: 'custom', message: 'There is no such column' });
  return z.NEVER;
});

export const lookoutColumnSchema: z.ZodType<LookoutColumn> = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('measure'), call: callSchema }),
  z.strictObject({ kind: z.literal('log'), log: z.enum(LOG_COLUMNS) }),
  z.strictObject({ kind: z.literal('rule'), rule: z.string().min(1).max(100) }),
]);

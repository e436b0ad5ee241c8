/** A view of the table that can be named and kept: its columns, its condition, its brushes on the log and on rules, its order. */
import { z } from 'zod';
import { parseCondition, leavesOf, type Condition } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import type { MeasureCall } from '../measures/values/measure.ts';
import { problemsOfIssues, type ParseResult } from '../problem/problem.ts';
import {
  LOG_COLUMNS,
  logColumnOf,
  lookoutColumnSchema,
  measureColumnOf,
  ruleColumnOf,
  type LookoutColumn,
} from './columns.ts';
import { ruleBrushSchema, type RuleBrush } from './ruleMatches.ts';
import { SORT_BY_RULES, type LogBrush, type SortBy } from './table.ts';

export interface LookoutView {
  readonly columns: readonly LookoutColumn[];
  readonly when: Condition | null;
  readonly logBrushes: readonly LogBrush[];
  readonly ruleBrushes: readonly RuleBrush[];
  /** Whether a student has to pass every brush on a rule, or any one of them. */
  readonly rulesJoin: 'all' | 'any';
  readonly sort: readonly SortBy[];
}

export const MOST_COLUMNS = 24;

/** Everybody, without a column. */
export const NO_VIEW: LookoutView = {
  columns: [],
  when: null,
  logBrushes: [],
  ruleBrushes: [],
  rulesJoin: 'all',
  sort: [],
};

const brushSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('range'), low: z.number().nullable(), high: z.number().nullable() }),
  z.strictObject({ kind: z.literal('some'), values: z.array(z.union([z.string(), z.number(), z.boolean()])).max(100) }),
  z.strictObject({ kind: z.literal('unknown') }),
]);

export const viewSchema = z.strictObject({
  columns: z.array(lookoutColumnSchema).max(MOST_COLUMNS, `A view has at most ${MOST_COLUMNS} columns`),
  when: z.unknown().default(null),
  logBrushes: z
    .array(z.strictObject({ log: z.enum(LOG_COLUMNS), brush: brushSchema }))
    .max(10)
    .default([]),
  ruleBrushes: z.array(ruleBrushSchema).max(MOST_COLUMNS).default([]),
  rulesJoin: z.enum(['all', 'any']).default('all'),
  sort: z
    .array(z.strictObject({ by: z.string().max(2000), down: z.boolean() }))
    .max(8)
    .default([]),
});

/** Reads a view and reports every problem. */
export function parseView(draft: unknown): ParseResult<LookoutView> {
  const parsed = viewSchema.safeParse(draft);
  if (!parsed.success) return { ok: false, problems: problemsOfIssues(parsed.error.issues, '') };
  const { when: draftWhen, ...rest } = parsed.data;
  if (draftWhen === null) return { ok: true, value: { ...rest, when: null } };
  const when = parseCondition(draftWhen, 'when');
  return when.ok ? { ok: true, value: { ...rest, when: when.value } } : when;
}

/** Every measure that a table needs: of its columns, and of its condition. */
export const callsOf = ({ columns, when }: Pick<LookoutView, 'columns' | 'when'>): readonly MeasureCall[] => [
  ...columns.flatMap((c) => (c.kind === 'measure' ? [c.call] : [])),
  ...(when === null ? [] : leavesOf(when)),
];

/** Every rule that a table needs: of its columns, and of its brushes. */
export const rulesIn = ({ columns, ruleBrushes }: Pick<LookoutView, 'columns' | 'ruleBrushes'>): readonly string[] => [
  ...new Set([...columns.flatMap((c) => (c.kind === 'rule' ? [c.rule] : [])), ...ruleBrushes.map((b) => b.rule)]),
];

/** A view of nothing but rules; students who match most of them for longest come first. */
export const rulesView = (rules: readonly string[]): Pick<LookoutView, 'columns' | 'sort'> => ({
  columns: rules.slice(0, MOST_COLUMNS).map(ruleColumnOf),
  sort: [{ by: SORT_BY_RULES, down: true }],
});

export const NAMED_SETS = ['Presence', 'Work', 'Grades', 'Written to'] as const;
export type NamedSet = (typeof NAMED_SETS)[number];

/** Columns to begin with, for what an instructor looks for. */
export function namedSet(set: NamedSet, course: Course): readonly LookoutColumn[] {
  const measures = (...calls: MeasureCall[]) => calls.map(measureColumnOf);
  const groupOfKind = (kind: string) => course.items.find((i) => i.kind === kind && i.group !== null)?.group;
  const page = course.items.find((i) => i.kind === 'page');
  switch (set) {
    case 'Presence':
      return [
        ...measures(
          { measure: 'daysSinceVisit' },
          { measure: 'courseGrade' },
          { measure: 'missing' },
          { measure: 'late' },
          ...(page ? [{ measure: 'opens', item: page.id } as const] : []),
        ),
        logColumnOf('lastNudge'),
      ];
    case 'Work': {
      const practice = groupOfKind('practice');
      return measures(
        { measure: 'missing' },
        { measure: 'late' },
        { measure: 'onTimeShare' },
        { measure: 'dueSoon', days: 3 },
        { measure: 'daysSinceParticipation' },
        ...(practice == null ? [] : [{ measure: 'share', of: 'practice', group: practice } as const]),
      );
    }
    case 'Grades': {
      const groups = [
        ...new Set(course.items.flatMap((i) => (i.group !== null && i.points !== null ? [i.group] : []))),
      ];
      return measures(
        { measure: 'courseGrade' },
        { measure: 'gradeVsClass' },
        { measure: 'gradeChange', days: 14 },
        { measure: 'latestScore' },
        ...groups.slice(0, 3).map((group) => ({ measure: 'groupGrade', group }) as const),
      );
    }
    case 'Written to':
      return [...LOG_COLUMNS.map(logColumnOf), measureColumnOf({ measure: 'daysSinceVisit' })];
  }
}

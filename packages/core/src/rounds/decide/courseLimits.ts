/** The limits that a course sets over all its rules, read from what somebody typed: each problem at its own path. */
import { BOUNDS } from '../../course/bounds.ts';
import { z } from 'zod';
import { PERCENT_RANGE } from '../../measures/values/range.ts';
import { wholeFrom, type Range } from '../../problem/range.ts';
import { numberIn } from '../../problem/rangeSchema.ts';
import { problemsOfIssues, type ParseResult } from '../../problem/problem.ts';
import type { CourseFile, CourseSettings } from '../../course/course.ts';
import { dayNumberOf } from '../../time/calendar.ts';
import { LAST_DAYS_RANGE } from '../../time/window.ts';
import { localDateSchema } from '../../time/localDate.ts';
import { quietHoursSchema } from './quietHours.ts';

/** What keeps a course from being written to by mistake. */
export interface CourseGuards {
  /** A rule that would reach more than this share of the class, 0 to 1, asks first. */
  readonly askAbove: number;
  /** Rounds wait once the learning platform has told nothing for this many hours; with null they never do. */
  readonly staleHours: number | null;
}

/** Half the class, and no limit on the age of the data. */
export const DEFAULT_GUARDS: CourseGuards = { askAbove: 0.5, staleHours: null };

export interface CourseLimits extends Pick<CourseFile, 'breaks' | 'marks'> {
  readonly settings: CourseSettings;
  readonly guards: CourseGuards;
}

export const breakSchema = z
  .strictObject({ from: localDateSchema, to: localDateSchema, name: z.string().optional() })
  .refine((b) => b.from <= b.to, { path: ['to'], message: 'The break ends before it begins. Choose a later last day' })
  .refine((b) => dayNumberOf(b.to) - dayNumberOf(b.from) < 366, {
    path: ['to'],
    message: 'A break lasts a year at most',
  });

export const BUDGET_RANGE = { count: wholeFrom(0, 1000), days: LAST_DAYS_RANGE };
export const STALE_HOURS_RANGE: Range = wholeFrom(1, 2000);
/** In letters: the name of a mark. */
export const LONGEST_MARK = 40;

export const courseSettingsSchema = z.strictObject({
  quietHours: quietHoursSchema.nullish().transform((q) => q ?? null),
  budget: z
    .strictObject({
      count: numberIn(BUDGET_RANGE.count),
      days: numberIn(BUDGET_RANGE.days),
      strict: z.boolean().default(false),
    })
    .nullish()
    .transform((b) => b ?? null),
});

export const limitsSchema = z.strictObject({
  settings: courseSettingsSchema,
  breaks: z.array(breakSchema).max(BOUNDS.breaks),
  marks: z
    .record(z.string().trim().min(1, 'A named score needs a name').max(LONGEST_MARK), numberIn(PERCENT_RANGE))
    .refine((marks) => Object.keys(marks).length <= 50, 'At most 50 named scores'),
  guards: z.strictObject({
    askAbove: z.number().gt(0, 'Type at least 1').max(1, 'Type at most 100'),
    staleHours: numberIn(STALE_HOURS_RANGE).nullable(),
  }),
});

export function parseCourseLimits(draft: unknown): ParseResult<CourseLimits> {
  const parsed = limitsSchema.safeParse(draft);
  return parsed.success
    ? { ok: true, value: parsed.data }
    : { ok: false, problems: problemsOfIssues(parsed.error.issues) };
}

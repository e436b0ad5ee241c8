/**
 * The scenario format `zest-bell/scenario@1` (engine §6): a course, what happened in it, and its rules, in one file. Read
 * strictly: whatever is not known is a problem at its own path, and all problems are said at once.
 */
import { z } from 'zod';
import { eventKindSchema, NEEDS_ITEM, type ActivityEvent, type Grade } from '../activity/event.ts';
import { makeCourse, type Course } from '../course/course.ts';
import { ITEM_KINDS } from '../course/item.ts';
import { ROLES } from '../course/person.ts';
import { joinPath, problemsOfIssues, type Parsed, type Problem } from '../problem.ts';
import { quietHoursSchema } from '../rounds/quietHours.ts';
import { courseProblems, instantSchema, parseRule, type Rule } from '../rules/rule.ts';
import { localDateSchema } from '../time/localDate.ts';
import { isZone } from '../time/zone.ts';

export const SCENARIO_FORMAT = 'zest-bell/scenario@1';

export interface Scenario {
  readonly course: Course;
  readonly events: readonly ActivityEvent[];
  readonly grades: readonly Grade[];
  readonly rules: readonly Rule[];
}

const id = z.string().min(1, 'An id is missing');
const finite = z.number();

const courseSchema = z
  .strictObject({
    code: z.string(),
    title: z.string(),
    timeZone: z.string().refine(isZone, 'There is no such time zone'),
    start: localDateSchema,
    end: localDateSchema,
    breaks: z
      .array(
        z
          .strictObject({ from: localDateSchema, to: localDateSchema, name: z.string().optional() })
          .refine((b) => b.from <= b.to, { path: ['to'], message: 'The break ends before it begins' }),
      )
      .default([]),
    groupWeights: z.record(z.string(), finite.nonnegative()).nullish(),
    marks: z.record(z.string(), finite).default({}),
  })
  .refine((c) => c.start <= c.end, { path: ['end'], message: 'The course ends before it begins' });

const settingsSchema = z
  .strictObject({
    quietHours: quietHoursSchema.nullish(),
    budget: z.strictObject({ count: finite.int().nonnegative(), days: finite.int().positive() }).nullish(),
  })
  .default({});

const personSchema = z.strictObject({
  id,
  firstName: z.string(),
  lastName: z.string(),
  email: z.string().nullish(),
  role: z.enum(ROLES),
  section: z.string().nullish(),
  active: z.boolean().default(true),
  enrolledAt: instantSchema,
  paused: z.boolean().default(false),
  contacts: z.array(z.strictObject({ kind: z.string(), name: z.string(), email: z.string() })).default([]),
  fields: z.record(z.string(), z.union([z.string(), finite])).default({}),
});

const extensionSchema = z
  .strictObject({ person: z.string().optional(), section: z.string().optional(), dueAt: instantSchema })
  .refine((e) => (e.person === undefined) !== (e.section === undefined), 'An extension names a person or a section');

const itemSchema = z.strictObject({
  id,
  title: z.string(),
  kind: z.enum(ITEM_KINDS),
  group: z.string().nullish(),
  points: finite.nonnegative().nullish(),
  opensAt: instantSchema.nullish(),
  dueAt: instantSchema.nullish(),
  topics: z.array(z.string()).default([]),
  excused: z.array(z.string()).default([]),
  extensions: z.array(extensionSchema).default([]),
});

const eventSchema = z
  .strictObject({ person: z.string(), kind: eventKindSchema, item: z.string().nullish(), at: instantSchema })
  .refine((e) => e.item != null || !NEEDS_ITEM.has(e.kind), { path: ['item'], message: 'This kind needs an item' });

const gradeSchema = z.strictObject({
  person: z.string(),
  item: z.string(),
  criterion: z.string().min(1).nullish(),
  points: finite,
  at: instantSchema,
});

/** The whole file but for what only `parseRule` can say of its rules. */
export const scenarioSchema = z.strictObject({
  format: z.literal(SCENARIO_FORMAT, `The format is “${SCENARIO_FORMAT}”`),
  course: courseSchema,
  settings: settingsSchema,
  people: z.array(personSchema),
  items: z.array(itemSchema).default([]),
  events: z.array(eventSchema).default([]),
  grades: z.array(gradeSchema).default([]),
  rules: z.array(z.unknown()).default([]),
});

type Parts = z.infer<typeof scenarioSchema>;

/** Reads a scenario, or says everything that does not fit. */
export function parseScenario(json: unknown): Parsed<Scenario> {
  const parsed = scenarioSchema.safeParse(json);
  const problems = parsed.success ? [] : problemsOfIssues(parsed.error.issues);
  // What is wrong with a rule is said even where the rest of the file does not fit.
  const drafts = rulesOf(json);
  const rules = drafts.map((draft, i) => parseRule(draft, joinPath('rules', i)));
  for (const rule of rules) if (!rule.ok) problems.push(...rule.problems);
  if (!parsed.success) return { ok: false, problems };

  const course = courseOf(parsed.data);
  problems.push(...referenceProblems(parsed.data, course), ...sameIds(parsed.data, drafts));
  rules.forEach((rule, i) => {
    if (rule.ok) problems.push(...courseProblems(rule.value, course, joinPath('rules', i)));
  });
  if (problems.length > 0) return { ok: false, problems };
  return {
    ok: true,
    value: {
      course,
      events: parsed.data.events.map((e) => ({ ...e, item: e.item ?? null })),
      grades: parsed.data.grades.map((g) => ({ ...g, criterion: g.criterion ?? null })),
      rules: rules.flatMap((r) => (r.ok ? [r.value] : [])),
    },
  };
}

function rulesOf(json: unknown): readonly unknown[] {
  const rules = typeof json === 'object' && json !== null ? (json as { rules?: unknown }).rules : undefined;
  return Array.isArray(rules) ? (rules as unknown[]) : [];
}

function courseOf(parts: Parts): Course {
  return makeCourse({
    ...parts.course,
    groupWeights: parts.course.groupWeights ?? null,
    settings: { quietHours: parts.settings.quietHours ?? null, budget: parts.settings.budget ?? null },
    people: parts.people.map((p) => ({ ...p, email: p.email?.trim() || null, section: p.section ?? null })),
    items: parts.items.map((i) => ({
      ...i,
      group: i.group ?? null,
      points: i.points ?? null,
      opensAt: i.opensAt ?? null,
      dueAt: i.dueAt ?? null,
    })),
  });
}

/** People and items that are named and are not there. */
function referenceProblems(parts: Parts, course: Course): Problem[] {
  const problems: Problem[] = [];
  const check = (path: string, what: 'person' | 'item', name: string) => {
    const known = what === 'person' ? course.personIndex : course.itemIndex;
    if (known.has(name)) return;
    problems.push({ path, code: 'notInCourse', message: `There is no ${what} “${name}” in this course` });
  };
  parts.items.forEach((item, i) => {
    item.excused.forEach((p, n) => check(joinPath('items', i, 'excused', n), 'person', p));
    item.extensions.forEach((e, n) => {
      if (e.person !== undefined) check(joinPath('items', i, 'extensions', n, 'person'), 'person', e.person);
    });
  });
  parts.events.forEach((e, i) => {
    check(joinPath('events', i, 'person'), 'person', e.person);
    if (e.item != null) check(joinPath('events', i, 'item'), 'item', e.item);
  });
  parts.grades.forEach((g, i) => {
    check(joinPath('grades', i, 'person'), 'person', g.person);
    check(joinPath('grades', i, 'item'), 'item', g.item);
  });
  return problems;
}

function sameIds(parts: Parts, rules: readonly unknown[]): Problem[] {
  const twice = (name: string, ids: readonly unknown[]): Problem[] =>
    ids.flatMap((value, i) =>
      value !== undefined && ids.indexOf(value) < i
        ? [{ path: joinPath(name, i, 'id'), code: 'sameId', message: `The id “${String(value)}” is there twice` }]
        : [],
    );
  return [
    ...twice(
      'people',
      parts.people.map((p) => p.id),
    ),
    ...twice(
      'items',
      parts.items.map((i) => i.id),
    ),
    ...twice(
      'rules',
      rules.map((r) => (r as { id?: unknown } | null)?.id),
    ),
  ];
}

/**
 * The scenario format `zest-bell/scenario@1` (engine §6): a course, what happened in it, and its rules, in one file. Read
 * strictly: whatever is not known is a problem at its own path, and all problems are said at once.
 */
import { z } from 'zod';
import { eventKindSchema, itemTrouble, type ActivityEvent, type Grade } from '../activity/event.ts';
import { BOUNDS } from '../course/bounds.ts';
import { makeCourse, type Course } from '../course/course.ts';
import { entryIdSchema, gradeShape, itemShape, lineSchema, listSchema, personShape } from '../course/entry.ts';
import { joinPath, problemsOfIssues, type ParseResult, type Problem } from '../problem/problem.ts';
import { breakSchema, courseSettingsSchema } from '../rounds/decide/courseLimits.ts';
import { courseProblems, type NamesOfCourse } from '../rules/names.ts';
import { parseRule, type Rule } from '../rules/rule.ts';
import { instantSchema } from '../time/instantSchema.ts';
import { dayNumberOf } from '../time/calendar.ts';
import { localDateSchema } from '../time/localDate.ts';
import { isZone } from '../time/zone.ts';

export const SCENARIO_FORMAT = 'zest-bell/scenario@1';

export interface Scenario {
  readonly course: Course;
  readonly events: readonly ActivityEvent[];
  readonly grades: readonly Grade[];
  readonly rules: readonly Rule[];
}

const finite = z.number();

const courseSchema = z
  .strictObject({
    code: lineSchema(),
    title: lineSchema(),
    timeZone: z.string().refine(isZone, 'There is no such time zone'),
    start: localDateSchema,
    end: localDateSchema,
    breaks: listSchema(breakSchema, BOUNDS.breaks, 'breaks').default([]),
    groupWeights: z.record(z.string(), finite.nonnegative()).nullish(),
    marks: z.record(z.string(), finite).default({}),
    /** Percent of the points possible by letter, as [F11] says; the common scale if the course has none of its own. */
    letters: z.record(z.string().max(12), finite.nonnegative()).nullish(),
  })
  .refine((c) => c.start <= c.end, { path: ['end'], message: 'The course ends before it begins' })
  .refine((c) => !(dayNumberOf(c.end) - dayNumberOf(c.start) >= BOUNDS.days), {
    path: ['end'],
    message: `A course lasts ${BOUNDS.days} days at most`,
  })
  .refine((c) => c.start >= BOUNDS.firstDay && c.end <= BOUNDS.lastDay, {
    path: ['start'],
    message: 'A course lies between 1990 and 2059',
  });

const person = personShape(instantSchema);
export const scenarioPersonSchema = z.strictObject({
  id: entryIdSchema,
  ...person,
  email: person.email.nullish(),
  section: person.section.nullish(),
  active: person.active.default(true),
  paused: person.paused.default(false),
  contacts: person.contacts.default([]),
  fields: person.fields.default({}),
});

const item = itemShape(instantSchema);
export const scenarioItemSchema = z.strictObject({
  id: entryIdSchema,
  ...item,
  group: item.group.nullish(),
  points: item.points.nullish(),
  opensAt: item.opensAt.nullish(),
  dueAt: item.dueAt.nullish(),
  topics: item.topics.default([]),
  excused: item.excused.default([]),
  extensions: item.extensions.default([]),
  /** Its page; an addition to the format, which may be left out. */
  url: item.url.nullish(),
});

const eventSchema = z
  .strictObject({ person: z.string(), kind: eventKindSchema, item: z.string().nullish(), at: instantSchema })
  .superRefine(({ kind, item }, ctx) => {
    const message = itemTrouble(kind, item);
    if (message !== null) ctx.addIssue({ code: 'custom', path: ['item'], message });
  });

const gradeSchema = z.strictObject(gradeShape(instantSchema));

/** The whole file but for what only `parseRule` can say of its rules. */
export const scenarioSchema = z.strictObject({
  format: z.literal(SCENARIO_FORMAT, `The format is “${SCENARIO_FORMAT}”`),
  course: courseSchema,
  settings: courseSettingsSchema.default({ quietHours: null, budget: null }),
  people: listSchema(scenarioPersonSchema, BOUNDS.people, 'people'),
  items: listSchema(scenarioItemSchema, BOUNDS.items, 'items').default([]),
  events: z.array(eventSchema).default([]),
  grades: z.array(gradeSchema).default([]),
  rules: listSchema(z.unknown(), BOUNDS.rules, 'rules').default([]),
});

type ScenarioParts = z.infer<typeof scenarioSchema>;

/** Reads a scenario, or says everything that does not fit: names that are not there too, whatever else is wrong. */
export function parseScenario(json: unknown): ParseResult<Scenario> {
  const parsed = scenarioSchema.safeParse(json);
  const problems = parsed.success ? [] : problemsOfIssues(parsed.error.issues);
  const raw = new RawScenario(json);
  problems.push(...raw.unknownNames(), ...raw.sameIds());
  const names = raw.names();
  // More rules than a course holds are not read one by one.
  const rules = raw
    .list('rules')
    .slice(0, BOUNDS.rules)
    .map((draft, i) => parseRule(draft, joinPath('rules', i)));
  rules.forEach((rule, i) => {
    problems.push(...(rule.ok ? courseProblems(rule.value, names, joinPath('rules', i)) : rule.problems));
  });
  if (!parsed.success || problems.length > 0) return { ok: false, problems };
  return {
    ok: true,
    value: {
      course: courseOf(parsed.data),
      events: parsed.data.events.map((e) => ({ ...e, item: e.item ?? null })),
      grades: parsed.data.grades.map((g) => ({ ...g, criterion: g.criterion ?? null })),
      rules: rules.flatMap((r) => (r.ok ? [r.value] : [])),
    },
  };
}

function courseOf(parts: ScenarioParts): Course {
  return makeCourse({
    ...parts.course,
    groupWeights: parts.course.groupWeights ?? null,
    settings: parts.settings,
    people: parts.people.map((p) => ({ ...p, email: p.email ?? null, section: p.section ?? null })),
    items: parts.items.map((i) => ({
      ...i,
      group: i.group ?? null,
      points: i.points ?? null,
      opensAt: i.opensAt ?? null,
      dueAt: i.dueAt ?? null,
    })),
  });
}

type ScenarioEntry = Readonly<Record<string, unknown>>;

const entryOf = (x: unknown): ScenarioEntry => (typeof x === 'object' && x !== null ? (x as ScenarioEntry) : {});
const listOf = (x: unknown): readonly unknown[] => (Array.isArray(x) ? (x as unknown[]) : []);
const textOf = (x: unknown): string | null => (typeof x === 'string' ? x : null);

/** A file that is not validated yet: only the names it defines and the names it uses are read. */
class RawScenario {
  private readonly json: ScenarioEntry;

  constructor(json: unknown) {
    this.json = entryOf(json);
  }

  list(key: string): readonly unknown[] {
    return listOf(this.json[key]);
  }

  private ids(key: 'people' | 'items' | 'rules'): unknown[] {
    return this.list(key).map((x) => entryOf(x)['id']);
  }

  names(): NamesOfCourse {
    return {
      itemIndex: new Set(this.ids('items')),
      personIndex: new Set(this.ids('people')),
      items: this.list('items').map((x) => ({ group: textOf(entryOf(x)['group']) })),
      people: this.list('people').map((x) => ({ section: textOf(entryOf(x)['section']) })),
      marks: entryOf(entryOf(this.json['course'])['marks']) as Record<string, number>,
    };
  }

  /** People and items that are named and are not there. */
  unknownNames(): Problem[] {
    const { itemIndex, personIndex } = this.names();
    const problems: Problem[] = [];
    const check = (path: string, what: 'person' | 'item', name: unknown) => {
      if (typeof name !== 'string' || (what === 'person' ? personIndex : itemIndex).has(name)) return;
      problems.push({ path, code: 'notInCourse', message: `There is no ${what} “${name}” in this course` });
    };
    this.list('items').forEach((item, i) => {
      listOf(entryOf(item)['excused']).forEach((p, n) => check(joinPath('items', i, 'excused', n), 'person', p));
      listOf(entryOf(item)['extensions']).forEach((e, n) =>
        check(joinPath('items', i, 'extensions', n, 'person'), 'person', entryOf(e)['person']),
      );
    });
    for (const key of ['events', 'grades']) {
      this.list(key).forEach((e, i) => {
        check(joinPath(key, i, 'person'), 'person', entryOf(e)['person']);
        check(joinPath(key, i, 'item'), 'item', entryOf(e)['item']);
      });
    }
    return problems;
  }

  sameIds(): Problem[] {
    return (['people', 'items', 'rules'] as const).flatMap((key) => {
      const seen = new Set<unknown>();
      return this.ids(key).flatMap((id, i) => {
        if (typeof id !== 'string' || !seen.has(id)) {
          seen.add(id);
          return [];
        }
        return [{ path: joinPath(key, i, 'id'), code: 'sameId', message: `The id “${id}” is there twice` }];
      });
    });
  }
}

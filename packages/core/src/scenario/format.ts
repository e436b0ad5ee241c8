/**
 * The scenario format `zest-bell/scenario@1` (engine §6): a course, what happened in it, and its rules, in one file. Read
 * strictly: whatever is not known is a problem at its own path, and all problems are said at once.
 */
import { z } from 'zod';
import { eventKindSchema, NEEDS_ITEM, type ActivityEvent, type Grade } from '../activity/event.ts';
import { isAddress } from '../course/address.ts';
import { BOUNDS } from '../course/bounds.ts';
import { makeCourse, type Course } from '../course/course.ts';
import { ITEM_KINDS } from '../course/item.ts';
import { ROLES } from '../course/person.ts';
import { joinPath, problemsOfIssues, type Parsed, type Problem } from '../problem.ts';
import { breakSchema, courseSettingsSchema } from '../rounds/courseLimits.ts';
import { courseProblems, type NamesOfCourse } from '../rules/names.ts';
import { instantSchema, parseRule, type Rule } from '../rules/rule.ts';
import { dayNumberOf } from '../time/calendar.ts';
import { localDateSchema } from '../time/localDate.ts';
import { numberWords } from '../time/words.ts';
import { isZone } from '../time/zone.ts';

export const SCENARIO_FORMAT = 'zest-bell/scenario@1';

export interface Scenario {
  readonly course: Course;
  readonly events: readonly ActivityEvent[];
  readonly grades: readonly Grade[];
  readonly rules: readonly Rule[];
}

const id = z.string().min(1, 'An id is missing').max(BOUNDS.line, `At most ${BOUNDS.line} characters`);
const finite = z.number();
const line = z
  .string()
  .max(BOUNDS.line, `At most ${BOUNDS.line} characters`)
  .refine((s) => !/[\r\n\0]/.test(s), 'Write it in one line');
const address = z
  .string()
  .trim()
  .refine((s) => s === '' || isAddress(s), 'Type one address, such as ada@college.example');
const list = <T extends z.ZodType>(entry: T, most: number, of: string) =>
  z.array(entry).max(most, `At most ${numberWords(most)} ${of}`);

const courseSchema = z
  .strictObject({
    code: line,
    title: line,
    timeZone: z.string().refine(isZone, 'There is no such time zone'),
    start: localDateSchema,
    end: localDateSchema,
    breaks: list(breakSchema, BOUNDS.breaks, 'breaks').default([]),
    groupWeights: z.record(z.string(), finite.nonnegative()).nullish(),
    marks: z.record(z.string(), finite).default({}),
    /** Percent of the points possible by letter, as [F11] says; the common scale where there is none. */
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

const personSchema = z.strictObject({
  id,
  firstName: line,
  lastName: line,
  email: address.nullish(),
  role: z.enum(ROLES),
  section: line.nullish(),
  active: z.boolean().default(true),
  enrolledAt: instantSchema,
  paused: z.boolean().default(false),
  contacts: list(z.strictObject({ kind: line, name: line, email: address }), BOUNDS.contacts, 'contacts').default([]),
  fields: z
    .record(z.string(), z.union([z.string(), finite]))
    .refine((f) => Object.keys(f).length <= BOUNDS.fields, `At most ${BOUNDS.fields} own columns`)
    .default({}),
});

const extensionSchema = z
  .strictObject({ person: z.string().optional(), section: z.string().optional(), dueAt: instantSchema })
  .refine((e) => (e.person === undefined) !== (e.section === undefined), 'An extension names a person or a section');

const itemSchema = z.strictObject({
  id,
  title: line,
  kind: z.enum(ITEM_KINDS),
  group: line.nullish(),
  points: finite.nonnegative().nullish(),
  opensAt: instantSchema.nullish(),
  dueAt: instantSchema.nullish(),
  topics: list(line, BOUNDS.topics, 'topics').default([]),
  excused: list(z.string(), BOUNDS.excused, 'people').default([]),
  extensions: list(extensionSchema, BOUNDS.extensions, 'extensions').default([]),
  /** Its page; an addition to the format, which may be left out. */
  url: z
    .string()
    .regex(/^https?:\/\//i, 'A page address begins with https://')
    .nullish(),
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
  settings: courseSettingsSchema.default({ quietHours: null, budget: null }),
  people: list(personSchema, BOUNDS.people, 'people'),
  items: list(itemSchema, BOUNDS.items, 'items').default([]),
  events: z.array(eventSchema).default([]),
  grades: z.array(gradeSchema).default([]),
  rules: list(z.unknown(), BOUNDS.rules, 'rules').default([]),
});

type Parts = z.infer<typeof scenarioSchema>;

/** Reads a scenario, or says everything that does not fit: names that are not there too, whatever else is wrong. */
export function parseScenario(json: unknown): Parsed<Scenario> {
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

function courseOf(parts: Parts): Course {
  return makeCourse({
    ...parts.course,
    groupWeights: parts.course.groupWeights ?? null,
    settings: parts.settings,
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

type Entry = Readonly<Record<string, unknown>>;

const entryOf = (x: unknown): Entry => (typeof x === 'object' && x !== null ? (x as Entry) : {});
const listOf = (x: unknown): readonly unknown[] => (Array.isArray(x) ? (x as unknown[]) : []);
const textOf = (x: unknown): string | null => (typeof x === 'string' ? x : null);

/** A file whose shape nobody has vouched for, as far as it says which names are in it and which it uses. */
class RawScenario {
  private readonly json: Entry;

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

/**
 * The one way in which a course's own data changes: what is written, that it is kept as a change with a name, and that anyone who
 * has the course in memory, and every rule that gets another next round, learns of it.
 */
import type { Instant } from '@zest-bell/core/time';
import {
  diffCoursesInParts,
  isNothing,
  makeCourse,
  touchesFacts,
  type Course,
  type CourseChanges,
  type CourseParts,
  type EntryChange,
  type Item,
  type Person,
} from '@zest-bell/core/course';
import type { ActivityEvent, Grade } from '@zest-bell/core/activity';
import { cannotRunWords, touchedBy } from '@zest-bell/core/rules';
import { eventKey, gradeKey, type EventFromFile, type GradeFromFile } from '@zest-bell/core/imports';
import { createHash } from 'node:crypto';
import { retractedHolds, gradeHolds, eventHolds } from '../../course/activity/entity.ts';
import { appendBatch } from '../../course/activity/store.ts';
import { bumpVersions } from '../../course/versions.ts';
import { CourseRow, courseHolds, itemHolds, personHolds } from '../../course/entity.ts';
import { insertItems, insertPeople, itemRowOf, personRowOf } from '../../course/repository.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { inSlices, rowsOf, run, select } from '../../platform/database/query.ts';
import { inTurns } from '../../platform/turns/inTurns.ts';
import { RuleRow } from '../../rules/entity.ts';
import { planNextRound, ruleOfRow } from '../../rules/repository.ts';
import { ChangeRow, type CHANGE_KINDS, changeHolds } from './entity.ts';
import { forgettingFields } from './saidAgain.ts';
import type { Actor } from '@zest-bell/core/access';
import { insertManyRows, insertRow, removeRows, updateRows, updateRow } from '../../platform/database/writing.ts';
import type { EntitySchema } from '@mikro-orm/core';
import type { Holds } from '../../platform/database/holds.ts';

export interface ChangeToApply {
  readonly course: number;
  readonly kind: (typeof CHANGE_KINDS)[number];
  readonly by: Actor;
  readonly now: Instant;
  readonly title: string;
}

/** Events in a table of their own beside the course's: they are moved by one statement. */
export interface StagedEvents {
  readonly length: number;
  /** Stores those that are new, and returns how many that was. */
  readonly moveInto: (em: Tx<'course'>, course: number, change: number) => Promise<number>;
}

export interface FactChanges {
  /** Millions at most: they are written as they are walked through. */
  readonly events: (Iterable<EventFromFile> & { readonly length: number }) | StagedEvents;
  readonly grades: readonly GradeFromFile[];
  readonly retractedEvents: readonly ActivityEvent[];
  readonly retractedGrades: readonly Grade[];
}

export const NO_FACT_CHANGES: FactChanges = { events: [], grades: [], retractedEvents: [], retractedGrades: [] };

/** Writes the difference between two states of a course, and facts. Null where nothing is different. */
export async function applyChange(
  em: Tx<'course'>,
  before: Course,
  after: CourseParts,
  order: ChangeToApply,
  facts: FactChanges = NO_FACT_CHANGES,
): Promise<ChangeRow | null> {
  const changes = await inTurns(() => diffCoursesInParts(before, after));
  const brings = facts.events.length + facts.grades.length;
  const takes = facts.retractedEvents.length + facts.retractedGrades.length;
  if (isNothing(changes) && brings + takes === 0) return null;
  const { course, ...rest } = order;
  const { now, ...more } = rest;
  const row = await insertRow(em, changeHolds, { course, ...more, at: now, changes });
  await writeEntries(em, order, changes, after);
  if (takes > 0) await updateRow(em, changeHolds, row, { retracted: await retract(em, row, facts, order) });
  if (brings > 0) await bring(em, row, facts);
  await renew(em, course, changes, { before, after }, now);
  return row;
}

async function writeEntries(
  em: Tx<'course'>,
  { course, kind }: Pick<ChangeToApply, 'course' | 'kind'>,
  changes: CourseChanges,
  after: CourseParts,
): Promise<void> {
  if (changes.details) await updateRows(em, courseHolds, { id: course }, { ...changes.details.after });
  await writePeople(em, course, changes.people, after);
  await writeItems(em, course, changes.items, after);
  await rememberTitles(em, course, changes.items, kind === 'undo');
  if (changes.order || changes.items.some((c) => c.before === null || c.after === null)) {
    // Only those that moved are written.
    const known = await select(em, itemHolds, ['id', 'key', 'position'], (query) => query.where({ course }));
    const place = new Map(after.items.map((i, n) => [i.id, n]));
    for (const { id, key, position } of known) {
      if (place.get(key) !== position)
        await updateRows(em, itemHolds, { id }, { position: place.get(key) ?? position });
    }
  }
}

async function writePeople(
  em: Tx<'course'>,
  course: number,
  changed: readonly EntryChange<Person>[],
  after: CourseParts,
): Promise<void> {
  const place = new Map(after.people.map((p, i) => [p.id, i]));
  const fresh = changed.flatMap((c) => (c.before === null && c.after ? [c.after] : []));
  await insertPeople(
    em,
    fresh.map((p) => ({ ...personRowOf(p), course, position: place.get(p.id)! })),
  );
  const memory = await forgettingFields(em, 'people', course, changed);
  for (const change of changed) {
    const { id, before, after: now } = change;
    if (now === null) await removeRows(em, personHolds, { course, key: id });
    else if (before !== null) {
      // A new address has not bounced yet, and a pause that the instructor set has no end.
      const address = before.email === now.email ? {} : { bouncedAt: null };
      const pause = before.paused === now.paused ? {} : { pausedUntil: null };
      await updateRows(
        em,
        personHolds,
        { course, key: id },
        { ...personRowOf(now), ...address, ...pause, ...memory(change) },
      );
    }
  }
}

async function writeItems(
  em: Tx<'course'>,
  course: number,
  changed: readonly EntryChange<Item>[],
  after: CourseParts,
): Promise<void> {
  const place = new Map(after.items.map((p, i) => [p.id, i]));
  const fresh = changed.flatMap((c) => (c.before === null && c.after ? [c.after] : []));
  await insertItems(
    em,
    fresh.map((i) => ({ ...itemRowOf(i), course, position: place.get(i.id)! })),
  );
  const memory = await forgettingFields(em, 'items', course, changed);
  for (const change of changed) {
    const { id, before, after: now } = change;
    if (now === null) await removeRows(em, itemHolds, { course, key: id });
    else if (before !== null)
      await updateRows(em, itemHolds, { course, key: id }, { ...itemRowOf(now), ...memory(change) });
  }
}

/** Titles of items that are not there, the latest. */
const MOST_FORMER = 500;

/**
 * A removed item leaves its title for everything that still names it; an item that comes back needs no such title, and an addition
 * that is undone leaves none.
 */
async function rememberTitles(
  em: Tx<'course'>,
  course: number,
  changed: readonly EntryChange<Item>[],
  isUndo: boolean,
): Promise<void> {
  const gone = changed.flatMap(({ id, before, after }) =>
    before && !after && !isUndo ? [[id, before.title] as const] : [],
  );
  const back = new Set(changed.flatMap(({ id, before }) => (before ? [] : [id])));
  if (gone.length + back.size === 0) return;
  await rememberFormer(em, course, new Map(gone), back);
}

/** Keeps titles of items that are not there, by their ids, and forgets those that are `back`. */
export async function rememberFormer(
  em: Tx<'course'>,
  course: number,
  gone: ReadonlyMap<string, string>,
  back: ReadonlySet<string> = new Set(),
): Promise<void> {
  const { formerItems } = await em.findOneOrFail(CourseRow, { id: course }, { refresh: true });
  const kept = Object.entries(formerItems ?? {}).filter(([id]) => !back.has(id));
  const latest = [...new Map([...kept, ...gone])].slice(-MOST_FORMER);
  await updateRows(em, courseHolds, { id: course }, { formerItems: Object.fromEntries(latest) });
}

/** Longer ones are kept by their digest. */
export const LONGEST_ID = 180;

/** A fact without an id gets one from its content. As it is: facts of one person that follow each other lie together in the index. */
const contentId = (key: string): string =>
  key.length <= LONGEST_ID ? `c:${key}` : `c:${createHash('sha256').update(key).digest('base64url')}`;
export const eventIdOf = (e: EventFromFile): string => e.id ?? contentId(eventKey(e));
const gradeIdOf = (g: GradeFromFile): string => g.id ?? contentId(gradeKey(g));

/** Stores facts that are new, each by its id or by what it says, and counts them. */
export function appendFacts(
  em: Tx<'course'>,
  course: number,
  facts: { readonly events: Iterable<EventFromFile>; readonly grades: FactChanges['grades'] },
  change: number | null = null,
): Promise<{ readonly events: number; readonly grades: number }> {
  function* events() {
    for (const e of facts.events) yield { ...e, id: eventIdOf(e) };
  }
  return appendBatch(
    em,
    course,
    { events: events(), grades: facts.grades.map((g) => ({ ...g, id: gradeIdOf(g) })) },
    change,
  );
}

async function bring(em: Tx<'course'>, row: ChangeRow, facts: FactChanges): Promise<void> {
  const floors = { activity_event: await lastId(em, 'activity_event'), grade: await lastId(em, 'grade') };
  const stored = await storedOf(em, row, facts);
  await updateRow(em, changeHolds, row, {
    ...stored,
    ...(stored.events > 0
      ? { firstEvent: floors.activity_event + 1, lastEvent: await lastId(em, 'activity_event') }
      : {}),
    ...(stored.grades > 0 ? { firstGrade: floors.grade + 1, lastGrade: await lastId(em, 'grade') } : {}),
  });
}

async function storedOf(em: Tx<'course'>, { course, id }: ChangeRow, { events, grades }: FactChanges) {
  if (!('moveInto' in events)) return appendFacts(em, course, { events, grades }, id);
  const appended = await appendFacts(em, course, { events: [], grades }, id);
  return { ...appended, events: await events.moveInto(em, course, id) };
}

async function lastId(em: Em, table: 'activity_event' | 'grade'): Promise<number> {
  const [found] = await rowsOf<{ last: number | null }>(em, em.getKnex()(table).max({ last: 'id' }));
  return Number(found?.last ?? 0);
}

interface FactPart {
  /** The change that brought it. */
  readonly change?: number | null;
  readonly id: number;
  readonly eventId: string;
  readonly person: string;
  readonly kind?: ActivityEvent['kind'];
  readonly item: string | null;
  readonly criterion?: string | null;
  readonly points?: number | string;
  readonly at: number;
}

/** Takes facts back: they are kept apart with who took them back and why, and come back only with an undo. */
async function retract(
  em: Tx<'course'>,
  row: ChangeRow,
  facts: FactChanges,
  { by, now, title }: ChangeToApply,
): Promise<number> {
  const kept = { course: row.course, change: row.id, retractedAt: now, by, reason: title };
  let count = 0;
  const take = async (
    table: 'activity_event' | 'grade',
    wanted: readonly { readonly at: Instant }[],
    keys: ReadonlySet<string>,
  ) => {
    const columns = table === 'grade' ? ['criterion', 'points'] : ['kind'];
    // By their instants: one look through the course for many of them.
    for (const slice of inSlices(wanted.map((f) => f.at))) {
      const query = em
        .getKnex()(table)
        .select(['id', 'person', 'item', 'at', 'change', ...columns])
        .select({ eventId: 'event_id' });
      const found = await rowsOf<FactPart>(em, query.where({ course: row.course }).whereIn('at', slice));
      const gone = found.filter((f) => keys.has(factKey(f)));
      if (gone.length === 0) continue;
      await insertManyRows(
        em,
        retractedHolds,
        gone.map(({ eventId, person, item, at, change, kind, criterion, points }) => ({
          ...kept,
          broughtBy: change ?? null,
          eventId,
          person,
          item,
          at,
          fact: table === 'grade' ? ('grade' as const) : ('event' as const),
          kind: kind ?? null,
          criterion: criterion ?? null,
          points: points === undefined ? null : Number(points),
        })),
      );
      await run(
        em,
        table === 'grade' ? (gradeHolds as FactTable) : (eventHolds as FactTable),
        em
          .getKnex()(table)
          .whereIn(
            'id',
            gone.map((f) => f.id),
          )
          .delete(),
      );
      count += gone.length;
    }
  };
  await take('activity_event', facts.retractedEvents, new Set(facts.retractedEvents.map(eventKey)));
  await take('grade', facts.retractedGrades, new Set(facts.retractedGrades.map(gradeKey)));
  if (count > 0) await dropHistoryInMemory(em, row.course);
  return count;
}

const factKey = ({ person, kind, item, criterion, points, at }: FactPart): string =>
  kind !== undefined
    ? eventKey({ person, kind, item, at })
    : gradeKey({ person, item: item ?? '', criterion: criterion ?? null, points: Number(points), at });

/** Either table of facts. */
export type FactTable = Holds<EntitySchema, 'course'>;

/** What is in memory of the course's history has facts that are gone. */
export async function dropHistoryInMemory(em: Tx<'course'>, course: number): Promise<void> {
  await run(em, courseHolds, em.getKnex()('course').where({ id: course }).increment('retractions', 1));
}

/** Marks copies of the course in memory as old, and plans new rounds where its days changed, or where a rule stops or starts being able to run. */
async function renew(
  em: Tx<'course'>,
  course: number,
  changes: CourseChanges,
  { before, after }: { readonly before: Course; readonly after: CourseParts },
  now: Instant,
): Promise<void> {
  await bumpVersions(em, course, { facts: touchesFacts(changes), settings: changes.details !== null });
  const isNamed = changes.items.length + changes.people.length > 0;
  if (!changes.details && !isNamed) return;
  const whole = makeCourse(after);
  for (const row of await em.find(RuleRow, { course, status: 'on' })) {
    try {
      const rule = ruleOfRow(row);
      const isOther = (cannotRunWords(rule, before) === null) !== (cannotRunWords(rule, whole) === null);
      if (changes.details || isOther) await planNextRound(em, row, rule, whole, now);
    } catch {
      // A rule that cannot be read has its own trouble.
    }
  }
}

/** What rules have to do with a change: those that look at what changed, and those that name something that is gone. */
export async function rulesTouched(
  em: Em,
  course: number,
  changes: CourseChanges,
  after: CourseParts,
): Promise<{ readonly rules: readonly string[]; readonly broken: readonly string[] }> {
  const rows = await em.find(
    RuleRow,
    { course, archivedAt: null },
    { orderBy: { position: 'asc' }, disableIdentityMap: true },
  );
  const whole = makeCourse(after);
  const rules: string[] = [];
  const broken: string[] = [];
  for (const row of rows) {
    try {
      const rule = ruleOfRow(row);
      const found = touchedBy(rule, changes, whole);
      if (found.looks) rules.push(rule.name);
      if (found.broken) broken.push(rule.name);
    } catch {
      continue;
    }
  }
  return { rules, broken };
}

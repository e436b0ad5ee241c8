/** Changes of a course's own data by hand: people, items, days. Each is one change with a name, and can be undone. */

import { inCourse } from '../../course/lock.ts';
import {
  freeId,
  changeLines,
  changeSummary,
  diffCourses,
  isMoved,
  isNothing,
  isSame,
  mergedSet,
  valueAt,
  valueWords,
  type Collision,
  type Course,
  type CourseParts,
  type Item,
  type Person,
} from '@zest-bell/core/course';
import { slugOf, type ChangeCard, type ChangedAnswer, type ChangesAnswer } from '@zest-bell/core/imports';
import { type BodyRead, contract } from '@zest-bell/core/contract';
import { DAY, dayNumberOf } from '@zest-bell/core/time';
import { personHolds } from '../../course/entity.ts';
import { bumpVersions } from '../../course/versions.ts';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import { applyChange, rulesTouched } from '../changes/apply.ts';
import { reasonsIn } from '../../course/reasons.ts';
import { reasonLines } from '../../rules/reasonLines.ts';
import { ChangeRow } from '../changes/entity.ts';
import { undoAhead, undoChange } from '../changes/undo.ts';
import { ImportRow } from '../changes/importRow.ts';
import { namesMore } from '../imports/takeImport.ts';
import { retryWaitingStatements } from '../statements/store.ts';
import type { Problem } from '@zest-bell/core/problem';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { IntakeServices } from '../services.ts';
import { actorNames } from '../../access/audit.ts';
import { withoutErased } from '../../course/erased.ts';
import { updateRows } from '../../platform/database/writing.ts';

type Edit = BodyRead<typeof contract.intake.edit>;
const PAGE = 30;
const MOST_LINES = 40;

const ERASED = {
  path: 'people',
  code: 'erased',
  message: 'This student was erased on request. An owner can allow importing them again, under Access',
};

export function editRoutes(door: Door, { orm, reading, live, clock, seal }: IntakeServices): void {
  door.on(contract.intake.edit, async ({ course: id, body: edit, actor: by }) => {
    let isMore = false;
    const answer = await inCourse(orm, id, async (em): Promise<ChangedAnswer> => {
      const { course } = await live.get(em, id);
      const collisions: PlacedCollision[] = [];
      const after = editedCourse(course, edit, clock.now(), collisions);
      if (collisions.length > 0)
        throw new AppError('changedMeanwhile', await collisionProblems(em, id, course, collisions));
      const { out } = await withoutErased(em, seal, id, course, after);
      if (out.size > 0) throw new AppError('invalidInput', [ERASED]);
      const changes = diffCourses(course, after);
      const endPauses = () => setPausesEnd(em, id, course, edit, clock.now());
      if (isNothing(changes)) {
        if (await endPauses()) await bumpVersions(em, id);
        return { change: null, summary: '', rules: [], broken: [] };
      }
      isMore = namesMore(changes);
      const summary = changeSummary(changes);
      const title = titleOf(changes, summary);
      const row = await applyChange(em, course, after, { course: id, kind: 'edit', by, now: clock.now(), title });
      await endPauses();
      return { change: row?.id ?? null, summary: title, ...(await rulesTouched(em, id, changes, after)) };
    });
    if (isMore) await retryWaitingStatements({ orm, live, clock }, id);
    return answer;
  });

  door.on(contract.intake.changes, async ({ course: id, query: { before } }) => {
    const em = reading.em.fork();
    const { course } = await live.get(em, id);
    const rows = await em.find(
      ChangeRow,
      { course: id, ...(before === undefined ? {} : { id: { $lt: before } }) },
      { orderBy: { id: 'desc' }, limit: PAGE + 1 },
    );
    const imports = await em.find(
      ImportRow,
      { course: id, change: { $in: rows.map((r) => r.id) } },
      { fields: ['id', 'change', 'report'] },
    );
    const name = await actorNames(
      em,
      rows.map((r) => r.by),
    );
    const page = rows.slice(0, PAGE);
    const more = rows.length > PAGE;
    const newer = before === undefined ? null : await em.findOne(ChangeRow, { course: id, id: before }, { fields: ['at'] });
    const from = more ? page.at(-1)!.at : 0;
    const reasons = await reasonsIn(em, id, { from, before: newer?.at });
    const importOf = new Map(imports.map((i) => [i.change, i]));
    return {
      more,
      reasons: await reasonLines(em, id, reasons),
      changes: page.map((row): ChangeCard => {
        const lines = changeLines(row.changes, course);
        const brought = importOf.get(row.id);
        return {
          id: row.id,
          kind: row.kind,
          at: row.at,
          by: name(row.by),
          title: row.title,
          undone: row.undoneBy != null,
          lines: lines.slice(0, MOST_LINES),
          all: lines.length,
          events: row.events,
          grades: row.grades,
          retracted: row.retracted,
          import: brought?.id ?? null,
          refused: brought?.report?.refused.length ?? 0,
        };
      }),
    } satisfies ChangesAnswer;
  });

  door.on(contract.intake.undoAhead, async ({ course: id, path }) => {
    const em = reading.em.fork();
    const { course } = await live.get(em, id);
    return undoAhead(em, course, { change: idOf(path.change), course: id });
  });

  door.on(contract.intake.undo, async ({ course: id, path, actor: by }) => {
    const change = idOf(path.change);
    const title = await inCourse(orm, id, async (em) => {
      const { course } = await live.get(em, id);
      return (await undoChange(em, course, { change, course: id, by, now: clock.now() })).title;
    });
    return { title };
  });
}

/** The course with the changes in it. Throws `invalidInput` with the field of what does not fit. */
function editedCourse(course: Course, edit: Edit, now: number, collisions: PlacedCollision[]): CourseParts {
  const people = new Map(course.people.map((p) => [p.id, p]));
  const merged = <T extends object>(
    known: T | undefined,
    set: object,
    was: object | undefined,
    seen: object | undefined,
    at: PlacedCollision['at'],
  ) => {
    const found = mergedSet<object>(known ?? {}, definedOf(set), known ? was : undefined, seen);
    collisions.push(...found.collisions.map((collision) => ({ ...collision, at })));
    return found.set as Partial<T>;
  };
  edit.people.forEach(({ id, set, was, seen }, i) => {
    const known = id === null ? undefined : people.get(id);
    if (id !== null && !known && !isNewKey(set))
      throw problem(`people[${i}].id`, 'There is no such person in this course');
    const person: Person = {
      ...(known ?? newPerson(id ?? newPersonId(people, set.email), course, now)),
      ...merged(known, set, was, seen, { path: `people[${i}]`, about: 'people', id: id ?? '' }),
    };
    if (person.firstName === '' && person.lastName === '')
      throw problem(`people[${i}].firstName`, 'A person needs a name');
    const twin =
      person.email === null
        ? undefined
        : [...people.values()].find(
            (p) => p.id !== person.id && p.email?.toLowerCase() === person.email!.toLowerCase(),
          );
    if (twin && person.email !== known?.email)
      throw problem(`people[${i}].email`, `${twin.firstName} ${twin.lastName} already has this address`);
    people.set(person.id, person);
  });
  const items = new Map(course.items.map((e) => [e.id, e]));
  edit.items.forEach(({ id, set, was, seen }, i) => {
    const known = id === null ? undefined : items.get(id);
    if (set === null) {
      if (id === null || !items.delete(id)) throw problem(`items[${i}].id`, 'There is no such item in this course');
      return;
    }
    if (id !== null && !known) throw problem(`items[${i}].id`, 'There is no such item in this course');
    const item: Item = {
      ...(known ?? newItem(newItemId(items, set.title ?? 'item'))),
      ...merged(known, set, was, seen, { path: `items[${i}]`, about: 'items', id: id ?? '' }),
    };
    if (item.title === '') throw problem(`items[${i}].title`, 'An item needs a title');
    items.set(item.id, item);
  });
  const { breaks } = merged<Pick<CourseParts, 'breaks'>>(
    course,
    { breaks: edit.breaks },
    edit.breaksWere && { breaks: edit.breaksWere },
    edit.breaksSeen && { breaks: edit.breaksSeen },
    { path: '', about: 'details', id: '' },
  );
  const order = new Map((edit.order ?? []).map((id, place) => [id, place]));
  const inOrder = [...items.values()];
  const sorted = edit.order ? inOrder.toSorted((a, b) => (order.get(a.id) ?? 1e9) - (order.get(b.id) ?? 1e9)) : inOrder;
  return {
    ...course,
    ...(edit.details ?? {}),
    ...(breaks === undefined ? {} : { breaks: soundBreaks(breaks) }),
    ...(edit.groupWeights === undefined ? {} : { groupWeights: edit.groupWeights }),
    people: [...people.values()],
    items: sorted,
  };
}

/** When the pauses end that an edit begins, or goes on with; whether it says so. */
async function setPausesEnd(
  em: Tx<'course'>,
  id: number,
  { calendar }: Course,
  edit: Edit,
  now: number,
): Promise<boolean> {
  const { pausedUntil } = edit;
  const paused = edit.people.flatMap((p) => (p.id !== null && p.set.paused === true ? [p.id] : []));
  if (pausedUntil === undefined || paused.length === 0) return false;
  const until = pausedUntil === 'term' ? calendar.end : calendar.zone.toInstant(dayNumberOf(pausedUntil) * DAY);
  if (until <= now) throw problem('pausedUntil', 'Choose a day that is still to come');
  await updateRows(em, personHolds, { course: id, key: { $in: paused } }, { pausedUntil: until });
  return true;
}

/** Something that was changed by two at a time, and where it was set. */
interface PlacedCollision extends Collision {
  readonly at: { readonly path: string; readonly about: 'people' | 'items' | 'details'; readonly id: string };
}

/** The changes that are looked through for who made one. */
const LOOKED_AT = 100;

/** Each at its field: what it is by now, and who changed it. */
async function collisionProblems(
  em: Em,
  id: number,
  course: Course,
  collisions: readonly PlacedCollision[],
): Promise<Problem[]> {
  const rows = await em.find(
    ChangeRow,
    { course: id },
    { orderBy: { id: 'desc' }, limit: LOOKED_AT, disableIdentityMap: true },
  );
  const name = await actorNames(
    em,
    rows.map((r) => r.by),
  );
  const names = new Map(course.people.map((p) => [p.id, `${p.firstName} ${p.lastName}`.trim()]));
  return collisions.map(({ at, field, key, theirs }) => {
    const made = rows.find(({ changes }) => {
      const entry = at.about === 'details' ? changes.details : changes[at.about].find((c) => c.id === at.id);
      const [before, after] = [entry?.before, entry?.after].map((side) =>
        valueAt(field, (side as Readonly<Record<string, unknown>> | null | undefined)?.[field], key),
      );
      return !isSame(before, after);
    });
    // A member of a list is said as a list of one, an own column by its value.
    const value = key === null || field === 'fields' || theirs === undefined ? theirs : [theirs];
    const words = valueWords(field, value, course.timeZone, names);
    return {
      path: [at.path, field, key].filter(Boolean).join('.'),
      code: 'changedMeanwhile',
      message: `${made ? name(made.by) : 'Somebody'} changed this to “${words}” in the meantime. Save again to replace it with yours`,
    };
  });
}

/** Only who is named in full can be new under an id of their own. */
const isNewKey = (set: Edit['people'][number]['set']): boolean => set.firstName !== undefined && set.role !== undefined;

const definedOf = <T extends object>(set: T): { [K in keyof T]: Exclude<T[K], undefined> } =>
  Object.fromEntries(Object.entries(set).filter(([, v]) => v !== undefined)) as {
    [K in keyof T]: Exclude<T[K], undefined>;
  };

const problem = (path: string, message: string) => new AppError('invalidInput', [{ path, code: 'edit', message }]);

function soundBreaks(breaks: CourseParts['breaks']) {
  const sorted = breaks.toSorted((a, b) => (a.from < b.from ? -1 : 1));
  sorted.forEach((b, i) => {
    if (i > 0 && sorted[i - 1]!.to >= b.from)
      throw problem(`breaks[${i}].from`, 'Two breaks overlap. Change their days');
  });
  return sorted;
}

function newPersonId(people: ReadonlyMap<string, Person>, email: string | null | undefined): string {
  if (email && !people.has(email.toLowerCase())) return email.toLowerCase();
  for (let n = people.size + 1; ; n++) if (!people.has(`person-${n}`)) return `person-${n}`;
}

/** Anyone who joins while the course runs begins today. */
const newPerson = (id: string, course: Course, now: number): Person => ({
  id,
  firstName: '',
  lastName: '',
  email: null,
  role: 'student',
  section: null,
  active: true,
  enrolledAt: Math.max(course.calendar.start, course.calendar.dayStart(now)),
  paused: false,
  contacts: [],
  fields: {},
});

function newItemId(items: ReadonlyMap<string, Item>, title: string): string {
  return freeId(slugOf(title), (id) => items.has(id));
}

const newItem = (id: string): Item => ({
  id,
  title: '',
  kind: 'assignment',
  group: null,
  points: null,
  opensAt: null,
  dueAt: null,
  topics: [],
  excused: [],
  extensions: [],
  url: null,
});

/** One entry is named; several are counted. */
function titleOf(changes: ReturnType<typeof diffCourses>, summary: string): string {
  const only =
    changes.people.length + changes.items.length === 1 &&
    !changes.details &&
    !(changes.order && isMoved(changes.order));
  const [person, item] = [changes.people[0], changes.items[0]];
  const entry = person ?? item;
  const whole = person?.after ?? person?.before;
  const name = whole ? `${whole.firstName} ${whole.lastName}`.trim() : (item?.after ?? item?.before)?.title;
  if (!only || !entry || name === undefined) return summary.charAt(0).toUpperCase() + summary.slice(1);
  return `${name} ${entry.before === null ? 'added' : entry.after === null ? 'removed' : 'changed'}`;
}

/** Taking a change back, as long as nothing later depends on it. What a later file says as well stays, and is that file's from then on. */
import { plural, type Instant } from '@zest-bell/core/time';
import { fullName, grouped, undoneCourse, withKept, type Course, type UndoneCourse } from '@zest-bell/core/course';
import type { UndoAnswer } from '@zest-bell/core/imports';
import { RetractedRow, retractedHolds, gradeHolds, eventHolds } from '../../course/activity/entity.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { countOf, inSlices, rowsOf, run } from '../../platform/database/query.ts';
import { applyChange, dropHistoryInMemory, rulesTouched } from './apply.ts';
import { ChangeRow, changeHolds } from './entity.ts';
import { laterFilesOf, type LaterFiles } from './saidAgain.ts';
import type { Actor } from '@zest-bell/core/access';
import { insertRow, removeRows, updateRow } from '../../platform/database/writing.ts';
import type { FactTable } from './apply.ts';

export interface ChangeToUndo {
  readonly change: number;
  readonly course: number;
  readonly by: Actor;
  readonly now: Instant;
}

/** What undoing a change would do. */
interface UndoPlan {
  readonly row: ChangeRow;
  readonly undone: UndoneCourse;
  readonly later: LaterFiles;
  readonly answer: UndoAnswer;
}

const MOST_REASONS = 20;

async function planUndo(em: Em, course: Course, order: Pick<ChangeToUndo, 'change' | 'course'>): Promise<UndoPlan> {
  const row = await em.findOne(ChangeRow, { id: order.change, course: order.course });
  if (!row) throw new AppError('notFound');
  if (row.undoneBy != null || row.kind === 'undo')
    throw new AppError('cannotUndo', [reason('This was undone already')]);
  const later = await laterFilesOf(em, row);
  const undone = undoneCourse(course, row.changes, later);
  const against = [...undone.against, ...(await standsOn(em, row, undone, later))];
  const stay = [...later.grades.values()].reduce((sum, n) => sum + n, 0);
  const answer = {
    against: against.slice(0, MOST_REASONS),
    goes: { events: await ownFacts(em, row, 'activity_event'), grades: (await ownFacts(em, row, 'grade')) - stay },
    stays: { grades: stay, people: undone.kept.people.length, items: undone.kept.items.length },
    unknown: later.unknown,
  };
  return { row, undone, later, answer };
}

/** What `undoChange` would do. Throws `notFound`, and `cannotUndo` for what was undone already. */
export const undoAhead = async (em: Em, course: Course, order: Pick<ChangeToUndo, 'change' | 'course'>) =>
  (await planUndo(em, course, order)).answer;

/** Undoes a change. Throws `notFound`, or `cannotUndo` with each reason. */
export async function undoChange(em: Tx<'course'>, course: Course, order: ChangeToUndo): Promise<ChangeRow> {
  const { row, undone, later, answer } = await planUndo(em, course, order);
  if (answer.against.length > 0) throw new AppError('cannotUndo', answer.against.map(reason));
  await handOver(em, row, undone, later);
  // Facts first: what the change brought goes, what it took back returns.
  const gone = (await removeFacts(em, row, 'activity_event')) + (await removeFacts(em, row, 'grade'));
  const back = await bringBack(em, row);
  if (gone + back > 0) await dropHistoryInMemory(em, order.course);
  const title = `Undone: ${row.title}`;
  const made =
    (await applyChange(em, course, undone.course, {
      course: order.course,
      kind: 'undo',
      by: order.by,
      now: order.now,
      title,
    })) ??
    (await insertRow(em, changeHolds, {
      course: order.course,
      kind: 'undo',
      by: order.by,
      at: order.now,
      title,
      changes: { people: [], items: [], details: null, order: null },
    }));
  await updateRow(em, changeHolds, made, { retracted: gone });
  await updateRow(em, changeHolds, row, { undoneBy: made.id });
  return made;
}

/** What stays belongs to the change of the file that says it; of a file that changed nothing, to nobody. */
async function handOver(em: Tx<'course'>, row: ChangeRow, { kept }: UndoneCourse, later: LaterFiles): Promise<void> {
  for (const by of later.grades.keys()) {
    const heir = await heirOf(em, row, later.changeOf.get(by) ?? null);
    const table = em.getKnex()('grade');
    const theirs = table.where({ course: row.course, change: row.id, said_again_by: by });
    if (heir) {
      const [found] = await rowsOf<{ first: number; last: number; n: number | string }>(
        em,
        theirs.clone().min({ first: 'id' }).max({ last: 'id' }).count({ n: '*' }),
      );
      await updateRow(em, changeHolds, heir, {
        grades: heir.grades + Number(found!.n),
        firstGrade: Math.min(heir.firstGrade ?? Infinity, found!.first),
        lastGrade: Math.max(heir.lastGrade ?? 0, found!.last),
      });
    }
    await run(em, gradeHolds, theirs.clone().update({ change: heir?.id ?? null }));
  }
  const heirOfEntry = (of: 'people' | 'items') => (entry: { readonly id: string }) => {
    const files = later.saying(of, entry.id).toSorted((a, b) => b - a);
    const change = files.map((by) => later.changeOf.get(by) ?? null).find((id) => id !== null);
    return change === undefined ? null : String(change);
  };
  const people = grouped(kept.people, heirOfEntry('people'));
  const items = grouped(kept.items, heirOfEntry('items'));
  for (const change of new Set([...people.keys(), ...items.keys()])) {
    const heir = await heirOf(em, row, Number(change));
    if (heir)
      await updateRow(em, changeHolds, heir, {
        changes: withKept(heir.changes, { people: people.get(change) ?? [], items: items.get(change) ?? [] }),
      });
  }
}

const heirOf = async (em: Tx, { course }: ChangeRow, id: number | null): Promise<ChangeRow | null> =>
  id === null ? null : em.findOne(ChangeRow, { course, id });

const idsOf = (entries: readonly { readonly id: string }[]): ReadonlySet<string> => new Set(entries.map((e) => e.id));

const reason = (message: string) => ({ path: 'change', code: 'standsOn', message });

/** What would be left without somebody or something that the change brought: nudges and facts of others, and rules. */
async function standsOn(em: Em, row: ChangeRow, undone: UndoneCourse, later: LaterFiles): Promise<string[]> {
  const reasons: string[] = [];
  const kept = { people: idsOf(undone.kept.people), items: idsOf(undone.kept.items) };
  const people = row.changes.people.flatMap((c) => (c.before === null && c.after ? [c.after] : []));
  const names = new Map(people.filter((p) => !kept.people.has(p.id)).map((p) => [p.id, fullName(p)]));
  for (const slice of inSlices([...names.keys()])) {
    const found = await rowsOf<{ student: string; n: number }>(
      em,
      em
        .getKnex()('nudge')
        .select('student')
        .count({ n: '*' })
        .where({ course: row.course })
        .whereIn('student', slice)
        .groupBy('student'),
    );
    reasons.push(...found.map((f) => `${names.get(f.student)!} has ${plural(Number(f.n), 'nudge')} in the log`));
  }
  const added = row.changes.items.flatMap((c) => (c.before === null && c.after ? [c.after] : []));
  const items = added.filter((i) => !kept.items.has(i.id));
  for (const [field, ids] of [
    ['person', [...names.keys()]],
    ['item', items.map((i) => i.id)],
  ] as const) {
    for (const table of ['activity_event', 'grade'] as const) {
      for (const slice of inSlices(ids)) {
        const query = em.getKnex()(table).count({ n: '*' }).where({ course: row.course }).whereIn(field, slice);
        // Its own facts are removed too, except those that a later file gives as well.
        const others = query.andWhere((q) => {
          void q.whereNull('change').orWhereNot('change', row.id);
          if (table === 'grade') void q.orWhereIn('said_again_by', [...later.grades.keys()]);
        });
        const [found] = await rowsOf<{ n: number }>(em, others);
        const n = Number(found?.n ?? 0);
        if (n > 0) {
          const what = table === 'grade' ? plural(n, 'grade') : plural(n, 'event');
          reasons.push(`${what} came later for ${field === 'person' ? 'people' : 'items'} that this change added`);
        }
      }
    }
  }
  if (items.length > 0 || names.size > 0) {
    const { rules, broken: all } = await rulesTouched(em, row.course, row.changes, undone.course);
    const broken = all.filter((name) => rules.includes(name));
    reasons.push(...broken.map((name) => `The rule “${name}” looks at something that this change added`));
  }
  return reasons;
}

/** Facts that a change brought. What was taken back in the meantime and has returned follows its first rows. */
function factsOf(em: Em, row: ChangeRow, table: 'activity_event' | 'grade') {
  const first = (table === 'grade' ? row.firstGrade : row.firstEvent) ?? null;
  return first === null
    ? null
    : em.getKnex()(table).where({ course: row.course, change: row.id }).where('id', '>=', first);
}

async function ownFacts(em: Em, row: ChangeRow, table: 'activity_event' | 'grade'): Promise<number> {
  const facts = factsOf(em, row, table);
  return facts ? countOf(em, facts) : 0;
}

async function removeFacts(em: Tx<'course'>, row: ChangeRow, table: 'activity_event' | 'grade'): Promise<number> {
  const count = await ownFacts(em, row, table);
  if (count > 0)
    await run(
      em,
      table === 'grade' ? (gradeHolds as FactTable) : (eventHolds as FactTable),
      factsOf(em, row, table)!.delete(),
    );
  return count;
}

/** What the change took back returns, as what it was: of the change that brought it, unless that one was undone itself. */
async function bringBack(em: Tx<'course'>, row: ChangeRow): Promise<number> {
  const all = await em.find(RetractedRow, { course: row.course, change: row.id }, { disableIdentityMap: true });
  const brought = [...new Set(all.flatMap((r) => r.broughtBy ?? []))];
  const undone = new Set(
    (await em.find(ChangeRow, { id: { $in: brought }, undoneBy: { $ne: null } }, { disableIdentityMap: true })).map(
      (c) => c.id,
    ),
  );
  const gone = all.filter((r) => r.broughtBy == null || !undone.has(r.broughtBy));
  for (const slice of inSlices(gone, 100)) {
    const events = slice.filter((r) => r.fact === 'event');
    const grades = slice.filter((r) => r.fact === 'grade');
    const part = ({ course, person, item, at, eventId, broughtBy }: RetractedRow) => ({
      course,
      change: broughtBy ?? null,
      person,
      item,
      at,
      event_id: eventId,
    });
    if (events.length > 0)
      await run(
        em,
        eventHolds,
        em
          .getKnex()('activity_event')
          .insert(events.map((r) => ({ ...part(r), kind: r.kind }))),
      );
    if (grades.length > 0)
      await run(
        em,
        gradeHolds,
        em
          .getKnex()('grade')
          .insert(grades.map((r) => ({ ...part(r), criterion: r.criterion, points: r.points }))),
      );
  }
  await removeRows(em, retractedHolds, { course: row.course, change: row.id });
  return gone.length;
}

/** Taking a change back, as long as nothing later stands on it. */
import { plural, type Instant } from '@zest-bell/core/time';
import { fullName, undoneCourse, type Course } from '@zest-bell/core/course';
import { RetractedRow } from '../../course/activity/entity.ts';
import { AppError } from '../../platform/http/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { inSlices, rowsOf, run } from '../../platform/database/query.ts';
import { applyChange, forgetHistory, rulesTouched } from './apply.ts';
import { ChangeRow } from './entity.ts';
import type { Actor } from '@zest-bell/core/access';

export interface ChangeToUndo {
  readonly change: number;
  readonly course: number;
  readonly by: Actor;
  readonly now: Instant;
}

/** Undoes a change. Throws `notFound`, or `cannotUndo` with each reason. */
export async function undoChange(em: Tx, course: Course, order: ChangeToUndo): Promise<ChangeRow> {
  const row = await em.findOne(ChangeRow, { id: order.change, course: order.course });
  if (!row) throw new AppError('notFound');
  if (row.undoneBy != null || row.kind === 'undo')
    throw new AppError('cannotUndo', [reason('This was undone already')]);
  const { course: before, against } = undoneCourse(course, row.changes);
  const reasons = [...against, ...(await standsOn(em, row, course))];
  if (reasons.length > 0) throw new AppError('cannotUndo', reasons.slice(0, 20).map(reason));
  // Facts first: what the change brought goes, what it took back returns.
  const gone = (await removeFacts(em, row, 'activity_event')) + (await removeFacts(em, row, 'grade'));
  const back = await bringBack(em, row);
  if (gone + back > 0) await forgetHistory(em, order.course);
  const title = `Undone: ${row.title}`;
  const made =
    (await applyChange(em, course, before, {
      course: order.course,
      kind: 'undo',
      by: order.by,
      now: order.now,
      title,
    })) ??
    em.create(ChangeRow, {
      course: order.course,
      kind: 'undo',
      by: order.by,
      at: order.now,
      title,
      changes: { people: [], items: [], details: null, order: null },
    });
  made.retracted = gone;
  await em.flush();
  row.undoneBy = made.id;
  await em.flush();
  return made;
}

const reason = (message: string) => ({ path: 'change', code: 'standsOn', message });

/** What would be left without somebody or something that the change brought: nudges and facts of others, and rules. */
async function standsOn(em: Em, row: ChangeRow, course: Course): Promise<string[]> {
  const reasons: string[] = [];
  const people = row.changes.people.flatMap((c) => (c.before === null && c.after ? [c.after] : []));
  const names = new Map(people.map((p) => [p.id, fullName(p)]));
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
  const items = row.changes.items.flatMap((c) => (c.before === null && c.after ? [c.after] : []));
  for (const [field, ids] of [
    ['person', [...names.keys()]],
    ['item', items.map((i) => i.id)],
  ] as const) {
    for (const table of ['activity_event', 'grade'] as const) {
      for (const slice of inSlices(ids)) {
        const query = em.getKnex()(table).count({ n: '*' }).where({ course: row.course }).whereIn(field, slice);
        // Its own facts go with it.
        const others = await rowsOf<{ n: number }>(
          em,
          query.andWhere((q) => void q.whereNull('change').orWhereNot('change', row.id)),
        );
        const n = Number(others[0]?.n ?? 0);
        if (n > 0) {
          const what = table === 'grade' ? plural(n, 'grade') : plural(n, 'event');
          reasons.push(`${what} came later for ${field === 'person' ? 'people' : 'items'} that this change added`);
        }
      }
    }
  }
  if (items.length > 0 || people.length > 0) {
    const without = undoneCourse(course, row.changes).course;
    const { rules, broken: all } = await rulesTouched(em, row.course, row.changes, without);
    const broken = all.filter((name) => rules.includes(name));
    reasons.push(...broken.map((name) => `The rule “${name}” looks at something that this change added`));
  }
  return reasons;
}

async function removeFacts(em: Tx, row: ChangeRow, table: 'activity_event' | 'grade'): Promise<number> {
  const first = table === 'grade' ? row.firstGrade : row.firstEvent;
  if (first == null) return 0;
  const own = { course: row.course, change: row.id };
  // What was taken back meanwhile and has returned stands behind its first rows.
  const [found] = await rowsOf<{ n: number }>(
    em,
    em.getKnex()(table).count({ n: '*' }).where(own).where('id', '>=', first),
  );
  await run(em, em.getKnex()(table).where(own).where('id', '>=', first).delete());
  return Number(found?.n ?? 0);
}

/** What the change took back returns, as what it was: of the change that brought it, unless that one was undone itself. */
async function bringBack(em: Tx, row: ChangeRow): Promise<number> {
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
        em
          .getKnex()('activity_event')
          .insert(events.map((r) => ({ ...part(r), kind: r.kind }))),
      );
    if (grades.length > 0)
      await run(
        em,
        em
          .getKnex()('grade')
          .insert(grades.map((r) => ({ ...part(r), criterion: r.criterion, points: r.points }))),
      );
  }
  await em.nativeDelete(RetractedRow, { course: row.course, change: row.id });
  return gone.length;
}

/** Students: what is in the table beside measures, its saved views, and what somebody keeps about students for themselves. */

import { inCourse } from '../../course/lock.ts';
import { dayNumberOf, DAY, type Instant } from '@zest-bell/core/time';
import { dailyActivity, packDaily } from '@zest-bell/core/activity';
import { classOverview, Gradebook, parseView, ruleMatches, type ClassOverview } from '@zest-bell/core/lookout';
import type { LookoutRulesAnswer, NoteLine, OwnRemarks, SavedView } from '@zest-bell/core/exchange';
import { SENT, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import { asideIn, setAside, endAside } from '../../course/aside.ts';
import { ViewRow, viewHolds } from './entity.ts';
import { NoteRow, PinRow, pinHolds, noteHolds } from '../notes/entity.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { sendColumns } from '../../platform/http/http.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRules } from '../../rules/repository.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { lookoutLog } from './log.ts';
import { actorNames, type ActorName } from '../../access/audit.ts';
import { insertRow, removeRows, upsertRow } from '../../platform/database/writing.ts';
import { upsertRows } from '../../platform/database/writing.ts';

export function lookoutRoutes(door: Door, { orm, reading, live, clock }: IntakeServices): void {
  /** The instant that is asked about, never a later one than now. */
  const instantOf = ({ at }: { readonly at?: Instant | undefined }): Instant => {
    const now = clock.now();
    return Math.min(at ?? now, now);
  };

  door.on(contract.desk.log, async ({ course: id, query }) => {
    const em = reading.em.fork();
    return await lookoutLog(em, await live.get(em, id), instantOf(query));
  });

  door.on(contract.desk.rules, async ({ course: id, query }) => {
    const em = reading.em.fork();
    const { facts } = await live.get(em, id);
    const at = instantOf(query);
    const rows = await em.find(RuleRow, { course: id, key: { $in: query.rules.split(',') }, archivedAt: null });
    const rules = Object.fromEntries(readableRules(rows).map((rule) => [rule.id, ruleMatches(rule, facts, at)]));
    return { at, rules } satisfies LookoutRulesAnswer;
  });

  door.on(contract.desk.activity, async ({ course, req, res }) => {
    const found = await live.get(reading.em.fork(), course);
    sendColumns(req, res, stateOf(found), () => packDaily(dailyActivity(found.course, found.facts.history)));
    return SENT;
  });

  door.on(contract.desk.gradebook, async ({ course, query, req, res }) => {
    const found = await live.get(reading.em.fork(), course);
    const at = instantOf(query);
    sendColumns(req, res, [...stateOf(found), at], () =>
      Gradebook.of(found.course, found.facts.students(), at).packed(),
    );
    return SENT;
  });

  door.on(contract.desk.overview, async ({ course: id, query }) => {
    const { course, facts } = await live.get(reading.em.fork(), id);
    const students = facts.students();
    const book = Gradebook.of(course, students, instantOf(query));
    return classOverview(course, facts.history, book, students) satisfies ClassOverview;
  });

  door.on(contract.desk.criteria, async ({ course: id }) => {
    const { facts } = await live.get(reading.em.fork(), id);
    return [...facts.history.criteria].sort();
  });

  door.on(contract.desk.remarks, async ({ course: id, account }) => {
    const em = reading.em.fork();
    const own = { course: id, account };
    const notes: Record<string, number> = {};
    for (const n of await em.find(NoteRow, own, { fields: ['student'] }))
      notes[n.student] = (notes[n.student] ?? 0) + 1;
    const aside = await asideIn(em, id, clock.now());
    return {
      pins: (await em.find(PinRow, own)).map((p) => p.student),
      notes,
      aside: Object.fromEntries(aside.map((a) => [a.student, a.until])),
    } satisfies OwnRemarks;
  });

  door.on(contract.desk.pins, async ({ course: id, body: order, account }) => {
    const own = { course: id, account };
    const at = clock.now();
    await inCourse(orm, id, async (em) => {
      const { course } = await live.get(em, id);
      if (order.students.some((s) => !course.personIndex.has(s))) throw new AppError('notFound');
      if (!order.pinned) return void (await removeRows(em, pinHolds, { ...own, student: { $in: order.students } }));
      const pins = [...new Set(order.students)].map((student) => ({ ...own, student, at }));
      await upsertRows(em, pinHolds, pins, {
        onConflictFields: ['course', 'account', 'student'],
        onConflictAction: 'ignore',
      });
    });
  });

  door.on(contract.desk.aside, async ({ course: id, body: { students: chosen, until: date, note }, actor: setBy }) => {
    const setAt = clock.now();
    await inCourse(orm, id, async (em) => {
      const { course } = await live.get(em, id);
      if (chosen.some((s) => !course.personIndex.has(s))) throw new AppError('notFound');
      if (date === null) {
        for (const student of chosen) await endAside(em, id, student);
        return;
      }
      const until = course.calendar.zone.toInstant(dayNumberOf(date) * DAY);
      if (until <= setAt) {
        throw new AppError('invalidInput', [{ path: 'until', code: 'past', message: 'Choose a day after today' }]);
      }
      for (const student of chosen) await setAside(em, { course: id, student, until, note, setBy, setAt });
    });
  });

  door.on(contract.desk.views, async ({ course: id }) => {
    const em = reading.em.fork();
    const rows = await em.find(ViewRow, { course: id }, { orderBy: { name: 'asc' } });
    const name = await actorNames(
      em,
      rows.map((r) => r.by),
    );
    return rows.map((row) => savedView(row, name));
  });

  /** Saves a view; under a name that is there already, in its place. */
  door.on(contract.desk.saveView, async ({ course: id, body: { name, view: draft }, actor: by }) => {
    const view = parseView(draft);
    if (!view.ok) throw new AppError('invalidInput', view.problems);
    const at = clock.now();
    const saved = await inCourse(orm, id, async (em) => {
      const row = { course: id, name, view: view.value, by, at };
      await upsertRow(em, viewHolds, row, { onConflictFields: ['course', 'name'] });
      const stored = await em.findOneOrFail(ViewRow, { course: id, name }, { refresh: true });
      return savedView(stored, await actorNames(em, [by]));
    });
    return saved;
  });

  door.on(contract.desk.removeView, async ({ course: id, path }) => {
    await inCourse(orm, id, (em) => removeRows(em, viewHolds, { course: id, id: idOf(path.view) }));
  });

  door.on(contract.desk.notes, async ({ course: id, path, account }) => {
    const own = { course: id, account, student: path.student };
    const rows = await reading.em.fork().find(NoteRow, own, { orderBy: { id: 'desc' } });
    return rows.map((n): NoteLine => ({ id: n.id, at: n.at, text: n.text }));
  });

  door.on(contract.desk.addNote, async ({ course: id, body: { text }, path, account }) => {
    const { student } = path;
    await inCourse(orm, id, async (em) => {
      const { course } = await live.get(em, id);
      if (!course.personIndex.has(student)) throw new AppError('notFound');
      await insertRow(em, noteHolds, { course: id, account, student, at: clock.now(), text });
    });
  });

  door.on(contract.desk.removeNote, async ({ course: id, path, account }) => {
    const { student, note } = path;
    const own = { course: id, account, student, id: idOf(note) };
    await inCourse(orm, id, (em) => removeRows(em, noteHolds, own));
  });
}

const stateOf = ({ id, row, facts }: LiveCourse) => [id, row.version, facts.history.version];

function savedView({ id, name, by, at, view }: ViewRow, nameOf: ActorName): SavedView {
  const parsed = parseView(view);
  return { id, name, by: nameOf(by), at, view: parsed.ok ? parsed.value : null };
}

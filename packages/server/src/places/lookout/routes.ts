/** Lookout: what stands in its table beside measures, its saved views, and what somebody keeps about students for themselves. */
import { Router, type Request } from 'express';
import { z } from 'zod';
import {
  classOverview,
  dailyActivity,
  dayNumberOf,
  DAY,
  Gradebook,
  packDaily,
  parseView,
  ruleMatches,
  type ClassOverview,
  type Instant,
  type LookoutRulesAnswer,
  type NoteLine,
  type OwnRemarks,
  type SavedView,
} from '@zest-bell/core';
import { accountName, accountOf, courseOf, idOf } from '../../accounts/routes.ts';
import type { LiveCourse } from '../../activity/live.ts';
import { asideIn, setAside, takeBack } from '../../course/aside.ts';
import { ViewRow } from '../../lookout/entity.ts';
import { NoteRow, PinRow } from '../../notes/entity.ts';
import { AppError } from '../../platform/errors.ts';
import { parseInput, sendColumns } from '../../platform/http.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRules } from '../../rules/repository.ts';
import type { Services } from '../../services.ts';
import { lookoutLog } from './log.ts';

const MOST = 5000;
const students = z.array(z.string().max(200)).min(1).max(MOST);
const pinSchema = z.strictObject({ students, pinned: z.boolean() });
const asideSchema = z.strictObject({
  students,
  /** Null: no longer set aside. */
  until: z.iso.date('Choose the day on which these students come back').nullable(),
  note: z.string().trim().max(2000, 'A note has at most 2,000 characters').default(''),
});
const noteSchema = z.strictObject({
  text: z.string().trim().min(1, 'Type a note').max(4000, 'A note has at most 4,000 characters'),
});
const viewSchema = z.strictObject({
  name: z.string().trim().min(1, 'Give the view a name').max(80, 'A name has at most 80 characters'),
  view: z.unknown(),
});

/** Ids of rules, with commas between them. */
const ruleKeys = z
  .string()
  .max(3000)
  .transform((text) => text.split(','));

export function lookoutRoutes({ orm, reading, live, clock }: Services): Router {
  const router = Router({ mergeParams: true });

  /** The instant that is asked about, never a later one than now. */
  const instantOf = (req: Request): Instant => {
    const now = clock.now();
    return Math.min(parseInput(z.coerce.number().int().optional(), req.query['at']) ?? now, now);
  };

  router.get('/lookout/log', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = reading.em.fork();
    res.json(await lookoutLog(em, await live.get(em, id), instantOf(req), clock.now()));
  });

  router.get('/lookout/rules', async (req, res) => {
    const id = await courseOf(reading, req);
    const keys = parseInput(ruleKeys, req.query['rules']);
    const em = reading.em.fork();
    const { facts } = await live.get(em, id);
    const at = instantOf(req);
    const rows = await em.find(RuleRow, { course: id, key: { $in: keys }, archivedAt: null });
    const rules = Object.fromEntries(readableRules(rows).map((rule) => [rule.id, ruleMatches(rule, facts, at)]));
    res.json({ at, rules } satisfies LookoutRulesAnswer);
  });

  router.get('/lookout/activity', async (req, res) => {
    const found = await live.get(reading.em.fork(), await courseOf(reading, req));
    sendColumns(req, res, stateOf(found), () => packDaily(dailyActivity(found.course, found.facts.history)));
  });

  router.get('/lookout/gradebook', async (req, res) => {
    const found = await live.get(reading.em.fork(), await courseOf(reading, req));
    const at = instantOf(req);
    sendColumns(req, res, [...stateOf(found), at], () =>
      Gradebook.of(found.course, found.facts.students(), at).packed(),
    );
  });

  router.get('/lookout/overview', async (req, res) => {
    const { course, facts } = await live.get(reading.em.fork(), await courseOf(reading, req));
    const book = Gradebook.of(course, facts.students(), instantOf(req));
    res.json(classOverview(course, facts.history, book) satisfies ClassOverview);
  });

  router.get('/lookout/remarks', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = reading.em.fork();
    const own = { course: id, account: accountOf(req) };
    const notes: Record<string, number> = {};
    for (const n of await em.find(NoteRow, own, { fields: ['student'] }))
      notes[n.student] = (notes[n.student] ?? 0) + 1;
    const aside = await asideIn(em, id, clock.now());
    res.json({
      pins: (await em.find(PinRow, own)).map((p) => p.student),
      notes,
      aside: Object.fromEntries(aside.map((a) => [a.student, a.until])),
    } satisfies OwnRemarks);
  });

  router.put('/lookout/pins', async (req, res) => {
    const id = await courseOf(reading, req);
    const order = parseInput(pinSchema, req.body);
    const own = { course: id, account: accountOf(req) };
    const at = clock.now();
    await inTransaction(orm, async (em) => {
      const { course } = await live.get(em, id);
      if (order.students.some((s) => !course.personIndex.has(s))) throw new AppError('notFound');
      if (!order.pinned) return void (await em.nativeDelete(PinRow, { ...own, student: { $in: order.students } }));
      const known = new Set((await em.find(PinRow, own)).map((p) => p.student));
      for (const student of new Set(order.students))
        if (!known.has(student)) em.create(PinRow, { ...own, student, at });
      await em.flush();
    });
    res.status(204).end();
  });

  router.put('/lookout/aside', async (req, res) => {
    const id = await courseOf(reading, req);
    const { students: chosen, until: date, note } = parseInput(asideSchema, req.body);
    const setAt = clock.now();
    await inTransaction(orm, async (em) => {
      const { course } = await live.get(em, id);
      if (chosen.some((s) => !course.personIndex.has(s))) throw new AppError('notFound');
      if (date === null) {
        for (const student of chosen) await takeBack(em, id, student);
        return;
      }
      const until = course.calendar.zone.toInstant(dayNumberOf(date) * DAY);
      if (until <= setAt) {
        throw new AppError('invalidInput', [{ path: 'until', code: 'past', message: 'Choose a day after today' }]);
      }
      const setBy = await accountName(em, accountOf(req));
      for (const student of chosen) await setAside(em, { course: id, student, until, note, setBy, setAt });
    });
    res.status(204).end();
  });

  router.get('/lookout/views', async (req, res) => {
    const id = await courseOf(reading, req);
    const rows = await reading.em.fork().find(ViewRow, { course: id }, { orderBy: { name: 'asc' } });
    res.json(rows.map(savedView));
  });

  /** Saves a view; under a name that is there already, in its place. */
  router.post('/lookout/views', async (req, res) => {
    const id = await courseOf(reading, req);
    const { name, view: draft } = parseInput(viewSchema, req.body);
    const view = parseView(draft);
    if (!view.ok) throw new AppError('invalidInput', view.problems);
    const at = clock.now();
    const saved = await inTransaction(orm, async (em) => {
      const by = await accountName(em, accountOf(req));
      const known = await em.findOne(ViewRow, { course: id, name });
      const row = known ?? em.create(ViewRow, { course: id, name, view: view.value, by, at });
      Object.assign(row, { view: view.value, by, at });
      await em.flush();
      return savedView(row);
    });
    res.status(201).json(saved);
  });

  router.delete('/lookout/views/:view', async (req, res) => {
    const id = await courseOf(reading, req);
    await inTransaction(orm, (em) => em.nativeDelete(ViewRow, { course: id, id: idOf(req.params.view) }));
    res.status(204).end();
  });

  router.get('/students/:student/notes', async (req, res) => {
    const id = await courseOf(reading, req);
    const own = { course: id, account: accountOf(req), student: req.params.student };
    const rows = await reading.em.fork().find(NoteRow, own, { orderBy: { id: 'desc' } });
    res.json(rows.map((n): NoteLine => ({ id: n.id, at: n.at, text: n.text })));
  });

  router.post('/students/:student/notes', async (req, res) => {
    const id = await courseOf(reading, req);
    const { text } = parseInput(noteSchema, req.body);
    const { student } = req.params;
    await inTransaction(orm, async (em) => {
      const { course } = await live.get(em, id);
      if (!course.personIndex.has(student)) throw new AppError('notFound');
      em.create(NoteRow, { course: id, account: accountOf(req), student, at: clock.now(), text });
      await em.flush();
    });
    res.status(204).end();
  });

  router.delete('/students/:student/notes/:note', async (req, res) => {
    const id = await courseOf(reading, req);
    const { student, note } = req.params;
    const own = { course: id, account: accountOf(req), student, id: idOf(note) };
    await inTransaction(orm, (em) => em.nativeDelete(NoteRow, own));
    res.status(204).end();
  });

  return router;
}

const stateOf = ({ id, row, facts }: LiveCourse) => [id, row.version, facts.history.version];

function savedView({ id, name, by, at, view }: ViewRow): SavedView {
  const parsed = parseView(view);
  return { id, name, by, at, view: parsed.ok ? parsed.value : null };
}

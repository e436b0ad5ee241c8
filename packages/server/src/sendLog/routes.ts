/** The send log: every nudge, its messages and attempts, and what the limits withheld. */
import { Router } from 'express';
import { z } from 'zod';
import {
  dayNumberOf,
  domainsOf,
  needsYes,
  fullName,
  localDateSchema,
  LOG_STATES,
  type AttemptAnswer,
  type Course,
  type LogAnswer,
  type LogDetail,
  type LogLine,
  type LogState,
  type MessageState,
  type Recipient,
  type Rule,
  type WithdrawnReason,
  type WithheldLine,
  type ReplyAnswer,
  type ReplyKind,
  type WithheldReason,
} from '@zest-bell/core';
import { courseOf } from '../accounts/routes.ts';
import { MessageRow, NudgeRow, RefusalRow } from '../nudges/entity.ts';
import { type Dispatcher } from '../outbox/dispatcher.ts';
import { settle } from '../nudges/settle.ts';
import type { LiveCourse } from '../activity/live.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import type { Services } from '../platform/services.ts';
import { ReplyRow } from '../replies/entity.ts';
import { RuleRow } from '../rules/entity.ts';
import { ruleOfRow } from '../rules/repository.ts';
import { AttemptRow } from './entity.ts';
import { subjectsOf } from './subjects.ts';
import { inTransaction } from '../platform/transaction.ts';

const querySchema = z.object({
  search: z.string().trim().max(200).default(''),
  rule: z.string().max(80).optional(),
  state: z.enum(LOG_STATES).optional(),
  date: localDateSchema.optional(),
  skip: z.coerce.number().int().min(0).default(0),
  take: z.coerce.number().int().min(1).max(200).default(100),
});
type LogQuery = z.infer<typeof querySchema>;

const decideSchema = z.strictObject({ as: z.enum(['send', 'dismiss']) });
const settleSchema = z.strictObject({ as: z.enum(['arrived', 'sendAgain']) });

export function sendLogRoutes({ orm, live, clock }: Services, dispatcher: Dispatcher): Router {
  const router = Router({ mergeParams: true });

  router.get('/', async (req, res) => {
    const id = await courseOf(orm, req);
    const query = parseInput(querySchema, req.query);
    const em = orm.em.fork();
    const { course } = await live.get(em, id);
    res.json(await logAnswer(em, id, course, query));
  });

  router.get('/withheld', async (req, res) => {
    const id = await courseOf(orm, req);
    const query = parseInput(querySchema, req.query);
    const em = orm.em.fork();
    const { course } = await live.get(em, id);
    const names = await ruleNames(em, id);
    const rows = await em.find(
      RefusalRow,
      { course: id, ...(query.rule ? { rule: query.rule } : {}) },
      { orderBy: { lastRound: 'desc', id: 'desc' }, limit: 500 },
    );
    const lines = rows.map((r): WithheldLine => ({
      rule: r.rule,
      ruleName: names.get(r.rule)?.name ?? r.rule,
      student: r.student,
      studentName: nameOf(course, r.student),
      reason: r.reason as WithheldReason,
      firstRound: r.firstRound,
      lastRound: r.lastRound,
      rounds: r.rounds,
      evidence: r.evidence,
    }));
    const wanted = query.search.toLowerCase();
    res.json(lines.filter((l) => `${l.studentName} ${l.ruleName}`.toLowerCase().includes(wanted)));
  });

  router.get('/:nudge', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    const nudge = await em.findOne(NudgeRow, { id: Number(req.params.nudge) || 0, course: id });
    if (!nudge) throw new AppError('notFound');
    const course = await live.get(em, id);
    res.json(await detailOf(em, nudge, course, await ruleNames(em, id)));
  });

  /** The instructor's yes or no to a held nudge. A yes is a hand-over: the second look comes first (engine R9). */
  router.post('/:nudge/decide', async (req, res) => {
    const id = await courseOf(orm, req);
    const { as } = parseInput(decideSchema, req.body);
    const nudge = await inTransaction(orm, async (em) => {
      const row = await em.findOne(NudgeRow, { id: Number(req.params.nudge) || 0, course: id });
      if (!row) throw new AppError('notFound');
      const held = await em.find(MessageRow, { nudge: row.id, state: 'held' }, { orderBy: { id: 'asc' } });
      if (held.length === 0) throw new AppError('notHeld');
      for (const message of held) {
        message.sendAt = clock.now();
        if (as === 'send') await sayYesTo(em, row, message);
        await settle(em, message, as === 'send' ? 'queued' : 'dismissed', null, clock.now());
      }
      return row.id;
    });
    if (as === 'send') await dispatcher.drain();
    const em = orm.em.fork();
    const course = await live.get(em, id);
    res.json(await detailOf(em, await em.findOneOrFail(NudgeRow, { id: nudge }), course, await ruleNames(em, id)));
  });

  /** What the instructor found out about a message whose sending was uncertain. */
  router.post('/messages/:message/settle', async (req, res) => {
    const id = await courseOf(orm, req);
    const { as } = parseInput(settleSchema, req.body);
    const nudge = await inTransaction(orm, async (em) => {
      const message = await em.findOne(MessageRow, { id: Number(req.params.message) || 0, course: id });
      if (!message) throw new AppError('notFound');
      if (message.state !== 'uncertain') throw new AppError('notUncertain');
      if (as === 'sendAgain') message.sendAt = clock.now();
      await settle(em, message, as === 'arrived' ? 'sent' : 'queued', null, clock.now());
      return message.nudge;
    });
    if (as === 'sendAgain') await dispatcher.drain();
    const em = orm.em.fork();
    const course = await live.get(em, id);
    res.json(await detailOf(em, await em.findOneOrFail(NudgeRow, { id: nudge }), course, await ruleNames(em, id)));
  });

  return router;
}

/** Who lets a message go lets it go to its address: the rule keeps that yes. */
async function sayYesTo(em: Em, nudge: NudgeRow, message: MessageRow): Promise<void> {
  if (message.kind === 'student') return;
  const rule = await em.findOne(RuleRow, { course: nudge.course, key: nudge.rule });
  const address = message.address.toLowerCase();
  if (rule && !rule.outside.includes(address)) rule.outside = [...rule.outside, address];
}

async function ruleNames(em: Em, course: number): Promise<Map<string, Rule>> {
  const rows = await em.find(RuleRow, { course });
  return new Map(rows.map((r) => [r.key, ruleOfRow(r)]));
}

const nameOf = (course: Course, student: string): string => {
  const person = course.people[course.personIndex.get(student) ?? -1];
  return person ? fullName(person) : student;
};

/** States as the log's filters group them. */
const groupOfState = (state: MessageState): LogState =>
  state === 'handing' ? 'queued' : state === 'dismissed' ? 'withdrawn' : state;

async function logAnswer(em: Em, id: number, course: Course, query: LogQuery): Promise<LogAnswer> {
  const names = await ruleNames(em, id);
  const lastAt = `(select max(a.at) from attempt a where a.nudge = n.id)`;
  const subject = `(select a.subject from attempt a join message m on m.id = a.message where a.nudge = n.id
    order by case when m.kind = 'student' then 0 else 1 end, a.id desc limit 1)`;
  const knex = em.getKnex();
  const nudges = knex('nudge as n')
    .select('n.id', 'n.rule', 'n.student', 'n.step', 'n.state', 'n.reason')
    .select({ roundAt: 'n.round_at' })
    .select(knex.raw(`${lastAt} as "lastAt", ${subject} as subject`))
    .select(knex.raw(`(select count(*) from message m where m.nudge = n.id) as messages`))
    .where('n.course', id)
    .orderBy('n.round_at', 'desc')
    .orderBy('n.id', 'desc');
  type Row = Omit<LogLine, 'nudge' | 'at' | 'answered' | 'ruleName' | 'studentName'> & {
    id: number;
    lastAt: number | null;
  };
  const rows = await rowsOf<Row>(em, nudges);
  const answers = await answersOf(em, id);
  const day = query.date === undefined ? null : dayNumberOf(query.date);
  const wanted = query.search.toLowerCase();
  const lines = rows
    .map(({ id: nudge, lastAt, ...r }): LogLine => ({
      ...r,
      nudge,
      ruleName: (r.rule && names.get(r.rule)?.name) ?? r.rule ?? 'Written by hand',
      studentName: nameOf(course, r.student),
      reason: r.reason,
      messages: Number(r.messages),
      at: lastAt ?? r.roundAt,
      answered: answers.get(nudge) ?? null,
    }))
    .filter(
      (l) =>
        (!query.rule || l.rule === query.rule) &&
        (day === null || course.calendar.dayNumber(l.at) === day) &&
        `${l.studentName} ${l.ruleName} ${l.subject ?? ''}`.toLowerCase().includes(wanted),
    );
  const counts = { all: lines.length, sent: 0, queued: 0, held: 0, uncertain: 0, failed: 0, withdrawn: 0 };
  for (const l of lines) counts[groupOfState(l.state)]++;
  const shown = lines.filter((l) => !query.state || groupOfState(l.state) === query.state);
  return { lines: shown.slice(query.skip, query.skip + query.take), total: shown.length, counts };
}

/** By nudge: what came back that says most. */
async function answersOf(em: Em, course: number): Promise<ReadonlyMap<number, ReplyKind>> {
  const rows = await em.find(ReplyRow, { course }, { fields: ['nudge', 'kind'], disableIdentityMap: true });
  const rank = (kind: string) => ['autoReply', 'bounce', 'reply'].indexOf(kind);
  const found = new Map<number, ReplyKind>();
  for (const r of rows) {
    const known = found.get(r.nudge);
    if (known === undefined || rank(r.kind) > rank(known)) found.set(r.nudge, r.kind as ReplyKind);
  }
  return found;
}

const replyAnswer = (r: ReplyRow): ReplyAnswer => ({
  id: r.id,
  kind: r.kind as ReplyKind,
  at: r.at,
  from: r.fromName ? `${r.fromName} <${r.fromAddress}>` : r.fromAddress,
  subject: r.subject,
  text: r.text,
  forward: (r.forward ?? null) as ReplyAnswer['forward'],
});

async function detailOf(em: Em, n: NudgeRow, live: LiveCourse, names: Map<string, Rule>): Promise<LogDetail> {
  const { course } = live;
  const rule = await em.findOne(RuleRow, { course: n.course, key: n.rule });
  const domains = domainsOf(live.row.sender);
  const outside = (m: MessageRow) =>
    needsYes(m as Pick<Recipient, 'kind' | 'address'>, domains) && !rule?.outside.includes(m.address.toLowerCase());
  const messages = await em.find(MessageRow, { nudge: n.id }, { orderBy: { id: 'asc' } });
  const attempts = await em.find(AttemptRow, { nudge: n.id }, { orderBy: { id: 'asc' } });
  const replies = (await em.find(ReplyRow, { nudge: n.id }, { orderBy: { id: 'asc' } })).map(replyAnswer);
  return {
    nudge: n.id,
    roundAt: n.roundAt,
    rule: n.rule ?? null,
    ruleName: (n.rule && names.get(n.rule)?.name) ?? n.rule ?? 'Written by hand',
    student: n.student,
    studentName: nameOf(course, n.student),
    step: n.step,
    state: n.state as MessageState,
    reason: (n.reason ?? null) as WithdrawnReason | null,
    subject: (await subjectsOf(em, [n.id])).get(n.id) ?? null,
    messages: messages.length,
    at: attempts.at(-1)?.at ?? n.roundAt,
    spellStart: n.spellStart,
    ruleVersion: n.ruleVersion,
    evidence: n.evidence,
    answered: replies.find((r) => r.kind === 'reply')?.kind ?? replies[0]?.kind ?? null,
    replies,
    to: messages.map((m) => ({
      id: m.id,
      kind: m.kind as 'student',
      reader: m.reader ?? m.kind,
      outside: m.state === 'held' && outside(m),
      name: m.name,
      address: m.address,
      state: m.state as MessageState,
      sendAt: m.sendAt,
      attempts: attempts.filter((a) => a.message === m.id).map(attemptOf),
    })),
  };
}

const attemptOf = (a: AttemptRow): AttemptAnswer => ({
  id: a.id,
  at: a.at,
  outcome: a.outcome as AttemptAnswer['outcome'],
  response: a.response,
  messageId: a.messageId,
  from: a.fromAddress,
  replyTo: a.replyTo,
  subject: a.subject,
  text: a.body,
  html: a.html,
  files: a.files,
  evidence: a.evidence,
});

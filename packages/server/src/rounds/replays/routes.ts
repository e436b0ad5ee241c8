/** Replay: what rules would have done over the term so far, and how well one finds those whom one worries about. Nothing is sent. */

import type { CourseCalendar, Instant } from '@zest-bell/core/time';
import { fullName, type Course } from '@zest-bell/core/course';
import { evidenceAt } from '@zest-bell/core/conditions';
import { mayGroupBy, MOST_GROUPS, type GroupBy } from '@zest-bell/core/outcomes';
import { asIfSince, courseProblems, numbersOf, parseRule, type Rule } from '@zest-bell/core/rules';
import { aboutOf } from '@zest-bell/core/wording';
import type { NamedTrial, ReplayEvidence } from '@zest-bell/core/exchange';
import { type TriedRule, SENT, contract } from '@zest-bell/core/contract';
import { groupMessages } from './groupMessages.ts';
import { cameOfCourse } from './outcomes.ts';
import { conditionIn, signRoutes } from './signs.ts';
import type { Door } from '../../access/door.ts';
import { inVoiceOf } from '../../course/activity/live.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { limitLogFrom } from '../deciding/limitLog.ts';
import { nudgesIn } from '../../mail/nudges/log.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule, readableRules, rowsOn } from '../../rules/repository.ts';
import { loadWordings } from '../../wording/repository.ts';
import { trialsOf } from '../../mail/trials/trial.ts';
import type { RoundServices } from '../services.ts';

/** Weeks with which the coming one is compared. */
const PAST_WEEKS = 4;

export function replayRoutes(door: Door, services: RoundServices): void {
  const { reading, live, clock, replays } = services;
  signRoutes(door, services);

  door.on(contract.rounds.replay, async ({ course: id, body, account, res }) => {
    const { facts, rules, budget, until } = await tried(id, body);
    await replays.tell(account, res, 'replay', facts, { rules, budget, until });
    return SENT;
  });

  /** One number of a rule over several values. */
  door.on(contract.rounds.vary, async ({ course: id, body: { path, values, ...order }, account, res }) => {
    const { facts, rule, ...rest } = await tried(id, order);
    mustHaveNumber(rule!, facts.course, path, 'path');
    await replays.tell(account, res, 'vary', facts, { ...rest, rule: rule!, path, values });
    return SENT;
  });

  door.on(contract.rounds.outcomes, async ({ course: id, query: { by } }) => {
    const em = reading.em.fork();
    return await cameOfCourse(em, await live.get(em, id), by, clock.now());
  });

  /** Replayed on from the log as it is. */
  door.on(contract.rounds.ahead, async ({ course: id, query: { days }, account, res }) => {
    const em = reading.em.fork();
    const { facts } = await live.get(em, id);
    const { calendar } = facts.course;
    const now = clock.now();
    const until = Math.min(calendar.addDays(now, days), calendar.end);
    const rows = await rowsOn(em, id);
    const rules = readableRules(rows);
    const logged = await limitLogFrom(em, id, rows, rules, now + 1, [facts]);
    const past = await pastWeeks(em, id, calendar, now);
    await replays.answer(account, res, 'coming', facts, { rules, logged, past, now, until });
    return SENT;
  });

  door.on(contract.rounds.trials, async ({ course: id, account }) => {
    const reader = { live, account };
    return (await trialsOf(reading.em.fork(), reader, id, clock.now())) satisfies NamedTrial[];
  });

  door.on(contract.rounds.evidence, async ({ course: id, body: order }) => {
    const em = reading.em.fork();
    const read = await live.get(em, id);
    const { course, facts } = read;
    const rule = await ruleOf(em, id, order.rule, order.changed, course);
    const row = await em.findOne(RuleRow, { course: id, key: order.rule }, { fields: ['owner'] });
    const { sender } = inVoiceOf(read, row?.owner);
    const person = course.personIndex.get(order.student);
    if (person === undefined) throw new AppError('notFound');
    const at = Math.min(order.at, clock.now());
    const step = rule.steps[Math.min(order.step, rule.steps.length - 1)]!;
    const wording = (await loadWordings(em, id, [step.wording]))(step.wording);
    const about = aboutOf(rule.when);
    const reader = { name: fullName(course.people[person]!) };
    const message = wording.ok ? wording.value.render({ facts, person, sender, about, at, reader }) : wording;
    return {
      evidence: evidenceAt(facts, person, rule.when, at),
      message: message.ok ? { subject: message.value.subject, text: message.value.text } : null,
    } satisfies ReplayEvidence;
  });

  door.on(contract.rounds.groupMessages, async ({ course: id, body: { by } }) => {
    const em = reading.em.fork();
    const { course } = await live.get(em, id);
    mustGroup(course, by);
    return groupMessages(em, id, course, by);
  });

  door.on(contract.rounds.hindsight, async ({ course: id, body: order, account, res }) => {
    const em = reading.em.fork();
    const { course, facts } = await live.get(em, id);
    const rule = await ruleOf(em, id, order.rule, undefined, course);
    const outcome = conditionIn(course, order.outcome, 'outcome');
    // What has not happened yet is no hindsight.
    const at = Math.min(order.at, clock.now(), course.calendar.end);
    const { vary, by } = order;
    if (vary) mustHaveNumber(rule, course, vary.path, 'vary.path');
    if (by) mustGroup(course, by);
    await replays.tell(account, res, 'hindsight', facts, { rule, outcome, at, vary, by });
    return SENT;
  });

  /** The rules to be replayed, with the facts to replay them on. */
  async function tried(id: number, order: TriedRule) {
    const em = reading.em.fork();
    const { course, facts } = await live.get(em, id);
    const named = order.rule === null ? null : await ruleOf(em, id, order.rule, order.changed, course);
    const rule = named && asIfSince(named, order.since ?? course.start, course);
    const others = rule === null || order.together ? await rulesOn(em, id) : [];
    const isThere = others.some((r) => r.id === rule?.id);
    const rules = others.map((r) => (r.id === rule?.id ? rule : r));
    return {
      rule,
      rules: rule === null || isThere ? rules : [...rules, rule],
      facts,
      budget: order.budget,
      until: Math.min(clock.now(), course.calendar.end),
    };
  }
}

/** Throws `invalidInput` for a column that too many values fill, or none. */
function mustGroup(course: Course, by: GroupBy): void {
  if (mayGroupBy(course, by)) return;
  const message = `Nobody has this column, or more than ${MOST_GROUPS} values fill it. Choose another`;
  throw new AppError('invalidInput', [{ path: 'by.name', code: 'tooMany', message }]);
}

/** Nudges of each of the last weeks of the course, the last one first. */
async function pastWeeks(em: Em, course: number, calendar: CourseCalendar, now: Instant): Promise<number[]> {
  const counts: number[] = [];
  for (let w = 1; w <= PAST_WEEKS; w++) {
    const from = calendar.addDays(now, -7 * w);
    if (from < calendar.start) break;
    counts.push(await nudgesIn(em, course, from, calendar.addDays(now, -7 * (w - 1))));
  }
  return counts;
}

/** Throws `invalidInput`. */
function mustHaveNumber(rule: Rule, course: Course, number: string, path: string): void {
  if (numbersOf(rule, course).some((n) => n.path === number)) return;
  const message = 'This rule has no such number. Choose another number to vary';
  throw new AppError('invalidInput', [{ path, code: 'unknown', message }]);
}

async function rulesOn(em: Em, course: number): Promise<Rule[]> {
  return readableRules(await rowsOn(em, course));
}

/** A rule as if it had been on from the beginning, whatever it is now; or what it was changed to. Throws `notFound`, `invalidInput`. */
async function ruleOf(em: Em, course: number, key: string, changed: unknown, of: Course): Promise<Rule> {
  const row = await em.findOne(RuleRow, { course, key });
  const saved = row && readableRule(row);
  if (!saved) throw new AppError('notFound');
  if (changed === undefined) return { ...saved, status: 'on', spellsFrom: null };
  const parsed = parseRule(changed);
  if (!parsed.ok) throw new AppError('invalidInput', parsed.problems);
  const problems = courseProblems(parsed.value, of);
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  return { ...parsed.value, id: key, status: 'on', spellsFrom: null };
}

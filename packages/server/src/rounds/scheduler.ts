/** Runs what is due, from the database's own `nextRoundAt`: no timer is kept a rule, so a restart forgets nothing. */
import { createHash } from 'node:crypto';
import { UniqueConstraintViolationException } from '@mikro-orm/core';
import { MINUTE, roundInstants, type Instant } from '@zest-bell/core';
import type { Services } from '../platform/services.ts';
import { heldCourses } from '../course/standing.ts';
import { endPauses } from '../pauses/pause.ts';
import { RuleRow } from '../rules/entity.ts';
import { ruleOfRow } from '../rules/repository.ts';
import { runRound, type RoundOrder } from './round.ts';
import { TroubleRow, type RoundRow } from './entity.ts';
import { inTransaction } from '../platform/transaction.ts';

/** How long after its instant a round still counts as held on time. */
const GRACE = 2 * MINUTE;

/** The instant of the next round of any course after now, or null. One that waits already is no longer to come. */
export async function nextRoundOfAll({ orm, clock }: Services): Promise<Instant | null> {
  const [row] = await orm.em
    .fork()
    .find(RuleRow, { status: 'on', nextRoundAt: { $gt: clock.now() } }, { orderBy: { nextRoundAt: 'asc' }, limit: 1 });
  return row?.nextRoundAt ?? null;
}

/**
 * Holds every round that is due by now. Rounds missed while the machine was off happen once a rule, now, and name the
 * missed ones (engine R10); so do those of a course whose mail was stopped or whose data was too old. A round that fails
 * is kept as a trouble and tried again ever later; it stops no other.
 */
export async function runDueRounds(services: Services): Promise<RoundRow[]> {
  await endPauses(services);
  const now = services.clock.now();
  const held: RoundRow[] = [];
  for (const order of await dueOrders(services, now)) {
    try {
      const row = await hold(services, order);
      if (row) held.push(row);
      await forgetTroubles(services, order);
    } catch (error) {
      await keepTrouble(services, order, error, now);
    }
  }
  return held;
}

async function dueOrders(services: Services, now: Instant): Promise<RoundOrder[]> {
  const { orm, live } = services;
  const em = orm.em.fork();
  const waiting = await heldCourses(em, now);
  const later = await em.find(TroubleRow, { nextTryAt: { $gt: now } });
  const triedLater = new Set(later.map((t) => `${t.course} ${t.rule}`));
  const rows = await em.find(RuleRow, { status: 'on', nextRoundAt: { $lte: now } }, { orderBy: { position: 'asc' } });
  const due = rows.filter((r) => !waiting.has(r.course) && !triedLater.has(`${r.course} ${r.key}`));
  const orders = new Map<string, { order: RoundOrder; rules: number[]; missed: Map<number, Instant[]> }>();
  for (const row of due) {
    const instants = await live
      .get(em, row.course)
      .then(({ course }) => roundInstants(ruleOfRow(row).rhythm, course.calendar, row.nextRoundAt!, now))
      .catch((error: unknown) => keepTrouble(services, { course: row.course, at: now, rules: [row.id] }, error, now));
    if (!instants) continue;
    const latest = instants.at(-1) ?? row.nextRoundAt!;
    const onTime = now - latest <= GRACE;
    const at = onTime ? latest : now;
    const key = `${row.course}:${onTime ? 'at' : 'late'}:${at}`;
    let of = orders.get(key);
    if (!of) {
      const rules: number[] = [];
      const missed = new Map<number, Instant[]>();
      const trigger = onTime ? 'regular' : 'late';
      of = { order: { course: row.course, at, trigger, claim: key, rules, missed, now }, rules, missed };
      orders.set(key, of);
    }
    of.rules.push(row.id);
    const missed = instants.filter((t) => t !== at);
    if (missed.length > 0) of.missed.set(row.id, missed);
  }
  return [...orders.values()]
    .map(({ order }) => (order.trigger === 'late' ? { ...order, claim: lateClaim(order, due) } : order))
    .sort((a, b) => a.at - b.at);
}

/** Two processes that wake at different moments to the same missed rounds write the same claim. */
function lateClaim(order: RoundOrder, due: readonly RuleRow[]): string {
  const what = due.filter((r) => order.rules.includes(r.id)).map((r) => `${r.id}@${r.nextRoundAt}`);
  return `${order.course}:late:${createHash('sha256').update(what.join()).digest('hex').slice(0, 32)}`;
}

/** Minutes until a round that failed is tried again; the last one for every later attempt. */
const WAITS = [1, 2, 5, 10, 30];

async function keepTrouble(
  { orm, logger }: Services,
  order: Pick<RoundOrder, 'course' | 'at' | 'rules'>,
  error: unknown,
  now: Instant,
): Promise<void> {
  logger.error({ err: error, course: order.course, at: order.at }, 'a round failed');
  const message = error instanceof Error ? error.message : 'unknown reason';
  await inTransaction(orm, async (em) => {
    for (const rule of await em.find(RuleRow, { id: { $in: [...order.rules] } })) {
      const of = { course: order.course, rule: rule.key };
      const known = await em.findOne(TroubleRow, of);
      const attempts = (known?.attempts ?? 0) + 1;
      const nextTryAt = now + WAITS[Math.min(attempts, WAITS.length) - 1]! * MINUTE;
      if (known) Object.assign(known, { attempts, nextTryAt, message });
      else em.create(TroubleRow, { ...of, since: rule.nextRoundAt ?? order.at, attempts, nextTryAt, message });
    }
    await em.flush();
  });
}

async function forgetTroubles({ orm }: Services, order: RoundOrder): Promise<void> {
  const em = orm.em.fork();
  if ((await em.count(TroubleRow, { course: order.course })) === 0) return;
  await inTransaction(orm, async (tx) => {
    const rules = await tx.find(RuleRow, { id: { $in: [...order.rules] } });
    await tx.nativeDelete(TroubleRow, { course: order.course, rule: { $in: rules.map((r) => r.key) } });
  });
}

class NothingDue extends Error {}

async function hold({ orm, live }: Services, order: RoundOrder): Promise<RoundRow | null> {
  try {
    return await inTransaction(orm, async (em) => {
      const row = await runRound(em, live, order);
      // Rolled back: a claim without a decision would hide the round from the process that can hold it.
      if (!row) throw new NothingDue();
      return row;
    });
  } catch (error) {
    if (error instanceof UniqueConstraintViolationException || error instanceof NothingDue) return null;
    throw error;
  }
}

/** One rule's round at once, with every limit; it counts, and moves no regular round (engine R10). */
export async function ring(services: Services, course: number, rule: RuleRow): Promise<RoundRow | null> {
  const now = services.clock.now();
  const claim = `${course}:ring:${rule.id}:${now}:${crypto.randomUUID()}`;
  return hold(services, { course, at: now, trigger: 'ring', claim, rules: [rule.id], missed: new Map(), now });
}

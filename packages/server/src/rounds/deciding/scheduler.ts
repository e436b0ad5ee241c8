/** Runs the rounds that are due, by the database's own `nextRoundAt`: there is no timer for a rule that a restart could lose. */
import { MINUTE, plural, roundInstants, type CourseCalendar, type Instant } from '@zest-bell/core/time';
import { AppError } from '../../platform/errors/errors.ts';
import type { RoundServices } from '../services.ts';
import { stoppedCourses } from '../../course/waiting.ts';
import { endPauses } from '../../mail/pauses/pause.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ruleOfRow } from '../../rules/repository.ts';
import { rulesWaitingForData } from '../../rules/sources.ts';
import type { SendingRow } from '../../mail/sendings/entity.ts';
import { beginSending, holdMessages } from '../../mail/sendings/sendings.ts';
import { claimOf, runRound, type RoundToRun, type RoundOutcome, type RuleLook } from './round.ts';
import { TroubleRow, type RoundRow, troubleHolds } from './entity.ts';
import { insertRow, removeRows, updateRow } from '../../platform/database/writing.ts';
import { inCourse } from '../../course/lock.ts';

/** How long after its instant a round still counts as on time, in ms. */
const GRACE = 2 * MINUTE;

/** The instant of the next round of any course after now, or null. One that waits already is no longer to come. */
export async function nextRoundOfAll({ reading, clock }: RoundServices): Promise<Instant | null> {
  const [row] = await reading.em
    .fork()
    .find(RuleRow, { status: 'on', nextRoundAt: { $gt: clock.now() } }, { orderBy: { nextRoundAt: 'asc' }, limit: 1 });
  return row?.nextRoundAt ?? null;
}

/**
 * Runs every round that is due by now. Rounds missed while the machine was off happen once for each rule, now, and name the
 * missed ones (engine R10); the same for a course with stopped mail or data that was too old. A rule that fails is
 * kept as a trouble and tried again ever later; it stops no other.
 */
export async function runDueRounds(services: RoundServices): Promise<RoundRow[]> {
  await endPauses(services);
  const now = services.clock.now();
  const done: RoundRow[] = [];
  for (const order of await dueOrders(services, now)) {
    try {
      const { rounds, failed } = await decideNow(services, order);
      done.push(...rounds);
      await forgetTroubles(services, order.course, rounds);
      for (const { rule, error } of failed) await keepTrouble(services, { ...order, rules: [rule.id] }, error, now);
    } catch (error) {
      await keepTrouble(services, { ...order, rules: order.looks.map((l) => l.rule) }, error, now);
    }
  }
  return done;
}

async function dueOrders(services: RoundServices, now: Instant): Promise<RoundToRun[]> {
  const { orm, live } = services;
  const em = orm.em.fork();
  const rows = await em.find(RuleRow, { status: 'on', nextRoundAt: { $lte: now } }, { orderBy: { position: 'asc' } });
  if (rows.length === 0) return [];
  const stopped = new Set(await stoppedCourses(em));
  const waiting = await rulesWaitingForData(em, now);
  const later = await em.find(TroubleRow, { nextTryAt: { $gt: now } });
  const triedLater = new Set(later.map((t) => `${t.course} ${t.rule}`));
  const due = rows.filter(
    (r) => !stopped.has(r.course) && !waiting.get(r.course)?.has(r.key) && !triedLater.has(`${r.course} ${r.key}`),
  );
  const orders = new Map<string, RoundToRun & { looks: RuleLook[] }>();
  const calendars = new Map<number, CourseCalendar>();
  for (const row of due) {
    let instants: Instant[];
    try {
      let calendar = calendars.get(row.course);
      if (!calendar) calendars.set(row.course, (calendar = (await live.get(em, row.course)).course.calendar));
      instants = roundInstants(ruleOfRow(row).rhythm, calendar, row.nextRoundAt!, now);
    } catch (error) {
      await keepTrouble(services, { course: row.course, at: now, rules: [row.id] }, error, now);
      continue;
    }
    const latest = instants.at(-1) ?? row.nextRoundAt!;
    const onTime = now - latest <= GRACE;
    const at = onTime ? latest : now;
    const trigger = onTime ? 'regular' : 'late';
    const key = `${row.course} ${trigger} ${at}`;
    let order = orders.get(key);
    if (!order) orders.set(key, (order = { course: row.course, at, trigger, looks: [], now }));
    order.looks.push({ rule: row.id, claim: claimOf(row), missed: instants.filter((t) => t !== at) });
  }
  return [...orders.values()].sort((a, b) => a.at - b.at);
}

/** Minutes until a round that failed is tried again; the last one for every later attempt. */
const WAITS = [1, 2, 5, 10, 30];

async function keepTrouble(
  { orm, logger }: RoundServices,
  order: Pick<RoundToRun, 'course' | 'at'> & { readonly rules: readonly number[] },
  error: unknown,
  now: Instant,
): Promise<void> {
  logger.error({ err: error, course: order.course, at: order.at }, 'a rule could not run');
  const message = error instanceof Error ? error.message : 'unknown reason';
  await inCourse(orm, order.course, async (em) => {
    for (const rule of await em.find(RuleRow, { id: { $in: [...order.rules] } })) {
      const about = { course: order.course, rule: rule.key };
      const known = await em.findOne(TroubleRow, about);
      const attempts = (known?.attempts ?? 0) + 1;
      const nextTryAt = now + WAITS[Math.min(attempts, WAITS.length) - 1]! * MINUTE;
      if (known) await updateRow(em, troubleHolds, known, { attempts, nextTryAt, message });
      else
        await insertRow(em, troubleHolds, {
          ...about,
          since: rule.nextRoundAt ?? order.at,
          attempts,
          nextTryAt,
          message,
        });
    }
  });
}

async function forgetTroubles({ orm }: RoundServices, course: number, rounds: readonly RoundRow[]): Promise<void> {
  if ((await orm.em.fork().count(TroubleRow, { course })) === 0) return;
  await inCourse(orm, course, (em) =>
    removeRows(em, troubleHolds, { course, rule: { $in: rounds.map((r) => r.rule) } }),
  );
}

const decideNow = ({ orm, live }: RoundServices, order: RoundToRun): Promise<RoundOutcome> =>
  inCourse(orm, order.course, (em) => runRound(em, live, order));

/**
 * One rule's round at once, with every limit; it counts, and moves no regular round (engine R10). Throws `ruleTrouble` with
 * the reason when nothing could be decided.
 */
export async function runRoundNow(
  services: RoundServices,
  course: number,
  rule: RuleRow,
  account: number,
): Promise<{ readonly round: RoundRow; readonly sending: SendingRow | null }> {
  const now = services.clock.now();
  const looks = [{ rule: rule.id, claim: `${rule.id} ring ${crypto.randomUUID()}`, missed: [] }];
  const order: RoundToRun = { course, at: now, trigger: 'ring', looks, now };
  let sending: SendingRow | null = null;
  const { rounds, failed } = await inCourse(services.orm, course, async (em) => {
    const outcome = await runRound(em, services.live, order);
    const [round] = outcome.rounds;
    sending = null;
    if (round && outcome.nudges.length > 0) {
      const words = plural(outcome.nudges.length, 'nudge');
      sending = await beginSending(em, { account, course, kind: 'ring', words, now, takeBack: { round: round.id } });
      await holdMessages(em, sending, { nudge: outcome.nudges });
    }
    return outcome;
  });
  const [round] = rounds;
  if (round) return { round, sending };
  const [trouble] = failed;
  if (!trouble) throw new AppError('busy');
  throw new AppError('ruleTrouble', [{ path: 'rule', code: 'ruleTrouble', message: trouble.error.message }]);
}

/**
 * One round as one transaction of decisions: nudges and their messages are queued, nothing is rendered or sent here. Its
 * claims are written first, which takes the database's write lock, so that what is read after it is what the decision
 * is on. A rule that cannot be decided is a trouble of its own, and the others of the round go on.
 */
import type { Instant } from '@zest-bell/core/time';
import { spellsAt } from '@zest-bell/core/conditions';
import { courseProblems, type Rule } from '@zest-bell/core/rules';
import {
  decide,
  explained,
  logOf,
  matchesAmong,
  type Decision,
  type Explained,
  type NudgeLog,
} from '@zest-bell/core/rounds';
import type { RoundTrigger } from '@zest-bell/core/exchange';
import type { LiveCourse, LiveCourses } from '../../course/activity/live.ts';
import { RefusalRow, refusalHolds } from '../../mail/nudges/entity.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { inSlices, runReturning } from '../../platform/database/query.ts';
import { RuleRow, ruleHolds } from '../../rules/entity.ts';
import { nextRoundOf, readableRule, ruleOfRow } from '../../rules/repository.ts';
import { RoundRow, roundHolds } from './entity.ts';
import { limitLogAt } from './limitLog.ts';
import { afterOthers } from '../../platform/turns/inTurns.ts';
import { storeNudges } from './storeNudges.ts';
import { insertRow, removeRows, updateRow } from '../../platform/database/writing.ts';

/** Refusals that are stored at once. */
const AT_ONCE = 200;

/** One rule's part of a round. */
export interface RuleLook {
  /** The database's id of the rule. */
  readonly rule: number;
  /** Unique: a second process that writes the same one leaves the rule to the first. */
  readonly claim: string;
  /** The rounds that this one makes up for. */
  readonly missed: readonly Instant[];
}

/** The due instant of a rule that a round answers: two processes that wake at different moments write the same one. */
export const claimOf = (row: RuleRow): string => `${row.id}@${row.nextRoundAt}`;

export interface RoundToRun {
  readonly course: number;
  readonly at: Instant;
  readonly trigger: RoundTrigger;
  readonly looks: readonly RuleLook[];
  /** When the round is run: late rounds and rings decide at this instant. */
  readonly now: Instant;
}

export interface RoundOutcome {
  readonly rounds: readonly RoundRow[];
  /** Rules of which nothing was decided, and why. */
  readonly failed: readonly { readonly rule: RuleRow; readonly error: Error }[];
  /** The nudges that were stored. */
  readonly nudges: readonly number[];
}

/** Decides a round and stores all of it. As it holds the course, no other round of it counts the same limits at that moment. */
export async function runRound(em: Tx<'course'>, live: LiveCourses, order: RoundToRun): Promise<RoundOutcome> {
  const looks = await claimed(em, order);
  const all = await em.find(RuleRow, { course: order.course }, { orderBy: { position: 'asc' }, refresh: true });
  const due = all.filter(
    (r) =>
      looks.has(r.id) && r.status === 'on' && (order.trigger === 'ring' || (r.nextRoundAt ?? Infinity) <= order.now),
  );
  const course = await live.get(em, order.course);
  await passHeldBefore(em, all, looks, order, course);
  const failed: { rule: RuleRow; error: Error }[] = [];
  const read = due.flatMap((row): { row: RuleRow; rule: Rule }[] => {
    try {
      return [{ row, rule: fitting(ruleOfRow(row), course) }];
    } catch (error) {
      failed.push({ rule: row, error: error as Error });
      return [];
    }
  });
  const log = logOf(
    await limitLogAt(
      em,
      course,
      all,
      read.map((r) => r.rule),
      order.at,
    ),
  );
  const decided: DecidedRule[] = [];
  for (const { row, rule } of read) {
    try {
      decided.push({ row, rule, ...(await afterOthers(() => decideAlone(rule, course, log, order.at))) });
    } catch (error) {
      failed.push({ rule: row, error: error as Error });
    }
  }
  const stored = await storeNudges(em, course, decided);
  await storeRefusals(
    em,
    order.course,
    decided.flatMap((d) => d.decisions),
    course,
  );
  // What was claimed and not decided is free again for the next try.
  const done = new Map(decided.map((d) => [d.row.id, d]));
  const rounds: RoundRow[] = [];
  for (const [id, round] of looks) {
    const decided = done.get(id);
    if (!decided) await removeRows(em, roundHolds, { id: round.id, course: order.course });
    else {
      await updateRow(em, roundHolds, round, {
        version: decided.row.version,
        matched: decided.matched,
        ...tally(decided.decisions.filter((d) => !stored.repeated.has(d))),
      });
      rounds.push(round);
      if (order.trigger !== 'ring') {
        const nextRoundAt = nextRoundOf(decided.rule, course.course, Math.max(order.now, order.at));
        await updateRow(em, ruleHolds, decided.row, { nextRoundAt });
      }
    }
  }
  return { rounds, failed, nudges: stored.ids };
}

/**
 * A round that was held before is not held again: by a clock that was ahead, as two processes that hold one see the rule's next round
 * already. The rule goes on to the round after it.
 */
async function passHeldBefore(
  em: Tx<'course'>,
  rules: readonly RuleRow[],
  looks: ReadonlyMap<number, RoundRow>,
  order: RoundToRun,
  { course }: LiveCourse,
): Promise<void> {
  const held = new Set(order.looks.flatMap((look) => (looks.has(look.rule) ? [] : [look.claim])));
  for (const row of rules) {
    if (row.status !== 'on' || !held.has(claimOf(row))) continue;
    const rule = readableRule(row);
    if (rule) await updateRow(em, ruleHolds, row, { nextRoundAt: nextRoundOf(rule, course, order.now) });
  }
}

interface DecidedRule {
  readonly row: RuleRow;
  readonly rule: Rule;
  readonly decisions: readonly Explained[];
  readonly matched: number;
}

/** Throws with a sentence for the instructor where the rule names what its course no longer has. */
function fitting(rule: Rule, { course }: LiveCourse): Rule {
  const problems = courseProblems(rule, course);
  if (problems.length === 0) return rule;
  throw new Error(`${problems.map((p) => p.message).join('. ')}. Open the rule and choose something else.`);
}

/** What a rule decides; when it fails midway, the log is as it was before it. */
function decideAlone(
  rule: Rule,
  course: LiveCourse,
  log: NudgeLog,
  at: Instant,
): Pick<DecidedRule, 'decisions' | 'matched'> {
  const before = log.mark();
  try {
    // Evidence is of this moment: others may take in facts before it is stored.
    const spells = spellsAt(course.facts, rule.when, at);
    const decisions = decide([rule], course.facts, log, at, () => spells).map((d) => explained(d, rule, course.facts));
    return { decisions, matched: matchesAmong(spells, rule, course.course, at).length };
  } catch (error) {
    log.rewind(before);
    throw error;
  }
}

/** The rounds of this process: those that nobody else has claimed. */
async function claimed(em: Tx<'course'>, order: RoundToRun): Promise<Map<number, RoundRow>> {
  const rules = await em.find(RuleRow, { id: { $in: order.looks.map((l) => l.rule) } });
  const keys = new Map(rules.map((r) => [r.id, r]));
  const rows = order.looks.flatMap(({ rule, claim, missed }) => {
    const row = keys.get(rule);
    const { course, at, trigger } = order;
    if (!row) return [];
    return [{ course, at, trigger, claim, rule: row.key, version: row.version, missed: JSON.stringify(missed) }];
  });
  const knex = em.getKnex();
  const mine = (await runReturning(
    em,
    roundHolds,
    knex('rule_round').insert(rows).onConflict('claim').ignore().returning(['id', 'claim']),
  )) as { id: number; claim: string }[];
  const byClaim = new Map(order.looks.map((l) => [l.claim, l.rule]));
  const found = await em.find(RoundRow, { id: { $in: mine.map((m) => m.id) } });
  return new Map(found.map((round) => [byClaim.get(round.claim)!, round]));
}

function tally(decisions: readonly Decision[]): Pick<RoundRow, 'heard' | 'held' | 'withheld' | 'withdrawn'> {
  const count = (outcome: Decision['outcome']) => decisions.filter((d) => d.outcome === outcome).length;
  return { heard: count('sent'), held: count('held'), withheld: count('withheld'), withdrawn: count('withdrawn') };
}

/** Refusals of one limit in one spell, in rounds that follow one another, are one line however many they are. */
async function storeRefusals(
  em: Tx<'course'>,
  course: number,
  decisions: readonly Explained[],
  live: LiveCourse,
): Promise<void> {
  const withheld = decisions.flatMap((d) => (d.outcome === 'withheld' ? [d] : []));
  if (withheld.length === 0) return;
  const keyOf = (r: { rule: string; student: string }) => `${r.rule} ${r.student}`;
  const latest = new Map<string, RefusalRow>();
  const rules = [...new Set(withheld.map((d) => d.rule))];
  for (const students of inSlices([...new Set(withheld.map((d) => d.student))])) {
    // No line of a spell that goes on ended before that spell began.
    const since = Math.min(...withheld.map((d) => d.spellStart), live.course.calendar.end);
    const rows = await em.find(
      RefusalRow,
      { course, student: { $in: students }, rule: { $in: rules }, lastRound: { $gte: since } },
      { orderBy: { lastRound: 'asc', id: 'asc' } },
    );
    for (const row of rows) latest.set(keyOf(row), row);
  }
  for (const [i, d] of withheld.entries()) {
    if (i % AT_ONCE === AT_ONCE - 1) await afterOthers(() => Promise.resolve());
    const { rule, student, spellStart, step, reason, evidence } = d;
    const row = latest.get(keyOf(d));
    if (row && row.spellStart === spellStart && row.step === step && row.reason === reason) {
      const rounds = d.round > row.lastRound ? row.rounds + 1 : row.rounds;
      await updateRow(em, refusalHolds, row, { rounds, lastRound: Math.max(row.lastRound, d.round), evidence });
    } else {
      const rounds = { firstRound: d.round, lastRound: d.round, rounds: 1 };
      await insertRow(em, refusalHolds, { course, rule, student, spellStart, step, reason, evidence, ...rounds });
    }
  }
}

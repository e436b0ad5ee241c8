/**
 * One round as one transaction of decisions: nudges and their messages are queued, nothing is sent here. The claim is
 * written first, which takes the database's write lock, so that what is read after it is what the decision stands on.
 */
import {
  decide,
  matchesAt,
  logOf,
  nudgeKey,
  type Decision,
  type Instant,
  type Rule,
  type RoundTrigger,
} from '@zest-bell/core';
import type { LiveCourse, LiveCourses } from '../activity/live.ts';
import { MessageRow, NudgeRow, RefusalRow } from '../nudges/entity.ts';
import { loggedFacts } from '../nudges/log.ts';
import type { Em } from '../platform/orm.ts';
import { RuleRow } from '../rules/entity.ts';
import { nextRoundOf, ruleOfRow } from '../rules/repository.ts';
import { RoundRow, type RoundResult } from './entity.ts';

export interface RoundOrder {
  readonly course: number;
  readonly at: Instant;
  readonly trigger: RoundTrigger;
  /** Unique: a second process that writes the same one is refused by the database. */
  readonly claim: string;
  /** Database ids of the rules. */
  readonly rules: readonly number[];
  /** By rule id: the rounds this one makes up for. */
  readonly missed: ReadonlyMap<number, readonly Instant[]>;
  /** Regular and late rounds move the rule's next one; a ring moves none (engine R10). */
  readonly now: Instant;
}

/** Decides a round and stores all of it. Null when another process was first. Needs a transaction's `em`. */
export async function runRound(em: Em, live: LiveCourses, order: RoundOrder): Promise<RoundRow | null> {
  const row = em.create(RoundRow, {
    course: order.course,
    at: order.at,
    trigger: order.trigger,
    claim: order.claim,
    results: [],
  });
  await em.flush();

  const all = await em.find(RuleRow, { course: order.course }, { orderBy: { position: 'asc' }, refresh: true });
  const wanted = new Set(order.rules);
  const due = all.filter(
    (r) =>
      wanted.has(r.id) &&
      r.status === 'on' &&
      (order.trigger === 'ring' || (r.nextRoundAt !== null && r.nextRoundAt! <= order.now)),
  );
  if (due.length === 0) return null;

  const course = await live.get(em, order.course);
  const log = logOf(await loggedFacts(em, order.course, all));
  const rules = due.map(ruleOfRow);
  const decisions = decide(rules, course.facts, log, order.at);
  const versions = new Map(due.map((r) => [r.key, r.version]));
  const left = await storeNudges(em, course, decisions, rules, versions);
  await storeRefusals(em, order.course, decisions);

  row.results = due.map((r, i) => ({
    rule: r.key,
    version: r.version,
    ...tally(left.filter((d) => d.rule === r.key)),
    matched: matchesAt(rules[i]!, course.facts, order.at).length,
    missed: order.missed.get(r.id) ?? [],
  }));
  if (order.trigger !== 'ring') {
    for (const r of due) r.nextRoundAt = nextRoundOf(ruleOfRow(r), course.course, Math.max(order.now, order.at));
  }
  await em.flush();
  return row;
}

function tally(decisions: readonly Decision[]): Pick<RoundResult, 'heard' | 'held' | 'withheld' | 'withdrawn'> {
  const of = (outcome: Decision['outcome']) => decisions.filter((d) => d.outcome === outcome).length;
  return { heard: of('sent'), held: of('held'), withheld: of('withheld'), withdrawn: of('withdrawn') };
}

/** Stores what was decided to write. A nudge that already stands (the same rule rang at this very instant) is skipped. */
async function storeNudges(
  em: Em,
  course: LiveCourse,
  decisions: readonly Decision[],
  rules: readonly Rule[],
  versions: ReadonlyMap<string, number>,
): Promise<Decision[]> {
  const byId = new Map(rules.map((r) => [r.id, r]));
  const keyOf = (d: Decision) => `${course.id}:${nudgeKey(d.rule, d.student, d.round)}`;
  const writing = decisions.filter((d) => d.outcome !== 'withheld');
  const standing = new Set<string>();
  for (const n of await em.find(NudgeRow, { idempotencyKey: { $in: writing.map(keyOf) } })) {
    standing.add(n.idempotencyKey);
  }
  const fresh = writing.filter((d) => !standing.has(keyOf(d)));
  const made = fresh.map((d) => {
    const state = d.outcome === 'sent' ? 'queued' : d.outcome;
    const step = byId.get(d.rule)!.steps[d.step]!;
    const nudge = em.create(NudgeRow, {
      course: course.id,
      idempotencyKey: keyOf(d),
      rule: d.rule,
      ruleVersion: versions.get(d.rule)!,
      student: d.student,
      roundAt: d.round,
      step: d.step,
      spellStart: d.spellStart,
      state,
      reason: d.reason,
      toStudent: step.to.includes('student'),
      wording: step.wording,
      evidence: d.evidence,
    });
    return { d, nudge, state };
  });
  await em.flush();
  for (const { d, nudge, state } of made) {
    for (const to of d.to) {
      em.create(MessageRow, { nudge: nudge.id, course: course.id, ...to, state, sendAt: d.sendAt ?? d.round });
    }
  }
  await em.flush();
  return decisions.filter((d) => !standing.has(keyOf(d)));
}

/** Refusals of one limit in one spell are one line, however many rounds repeat it. */
async function storeRefusals(em: Em, course: number, decisions: readonly Decision[]): Promise<void> {
  const withheld = decisions.filter((d) => d.outcome === 'withheld');
  if (withheld.length === 0) return;
  const students = [...new Set(withheld.map((d) => d.student))];
  const keyOf = (of: { rule: string; student: string; spellStart: number; step: number; reason: string | null }) =>
    [of.rule, of.student, of.spellStart, of.step, of.reason].join(' ');
  const rows = await em.find(RefusalRow, { course, student: { $in: students } });
  const known = new Map(rows.map((r) => [keyOf(r), r]));
  for (const d of withheld) {
    const row = known.get(keyOf(d));
    if (row) {
      row.lastRound = d.round;
      row.rounds += 1;
      row.evidence = d.evidence;
    } else {
      const { rule, student, spellStart, step, evidence } = d;
      const rounds = { firstRound: d.round, lastRound: d.round, rounds: 1 };
      em.create(RefusalRow, { course, rule, student, spellStart, step, reason: d.reason, evidence, ...rounds });
    }
  }
  await em.flush();
}

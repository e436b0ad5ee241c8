/** Decisions as nudges and their messages, queued or waiting; nothing is rendered or sent here. */
import type { Rule, Step } from '@zest-bell/core/rules';
import { nudgeKey, type MessageState } from '@zest-bell/core/nudges';
import type { Decision, Explained, WithheldReason } from '@zest-bell/core/rounds';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { inSlices, run, runReturning, select } from '../../platform/database/query.ts';
import type { RuleRow } from '../../rules/entity.ts';
import type { Actor } from '@zest-bell/core/access';
import { messageHolds, nudgeHolds } from '../../mail/nudges/entity.ts';

/** Rows that are stored with one statement: a large round does not hold up the whole server. */
const AT_ONCE = 50;

export interface DecisionsToStore {
  readonly row: RuleRow;
  readonly rule: Rule;
  readonly decisions: readonly Explained[];
  /** Sent by an instructor, who passed these limits, with a text of their choice. */
  readonly byHand?: { readonly by: Actor; readonly passed: readonly WithheldReason[]; readonly wording: string };
}

/** Stores what was decided to write. A nudge that is there already (the same rule rang at this very instant) is repeated. */
export async function storeNudges(
  em: Tx<'course'>,
  course: LiveCourse,
  decided: readonly DecisionsToStore[],
): Promise<{ readonly repeated: ReadonlySet<Decision>; readonly ids: readonly number[] }> {
  const keyOf = (d: Decision) => `${course.id}:${nudgeKey(d.rule, d.student, d.round)}`;
  const writing = decided.flatMap(({ row, rule, decisions, byHand }) =>
    decisions.flatMap((d) => (d.outcome === 'withheld' ? [] : [{ d, row, step: rule.steps[d.step]!, byHand }])),
  );
  const known = new Set<string>();
  for (const slice of inSlices(writing.map(({ d }) => keyOf(d)))) {
    const there = await select(em, nudgeHolds, ['idempotencyKey'], (query) => query.whereIn('idempotency_key', slice));
    for (const { idempotencyKey } of there) known.add(idempotencyKey);
  }
  const fresh = writing.filter(({ d }) => !known.has(keyOf(d)));
  const ids: number[] = [];
  for (let from = 0; from < fresh.length; from += AT_ONCE)
    ids.push(...(await storeSome(em, course, fresh.slice(from, from + AT_ONCE), keyOf)));
  const repeated = new Set(writing.flatMap(({ d }) => (known.has(keyOf(d)) ? [d] : [])));
  return { repeated, ids };
}

type ToWrite = Pick<DecisionsToStore, 'row' | 'byHand'> & { readonly d: Explained; readonly step: Step };

async function storeSome(
  em: Tx<'course'>,
  course: LiveCourse,
  some: readonly ToWrite[],
  keyOf: (d: Decision) => string,
): Promise<number[]> {
  const made = some.map(({ d, row, step, byHand }) => {
    const state: MessageState = d.outcome === 'sent' ? 'queued' : d.outcome === 'held' ? 'held' : 'withdrawn';
    const nudge = {
      course: course.id,
      idempotency_key: keyOf(d),
      rule: d.rule,
      rule_version: row.version,
      student: d.student,
      round_at: d.round,
      step: d.step,
      spell_start: d.spellStart,
      state,
      reason: d.outcome === 'withdrawn' ? d.reason : null,
      to_student: step.to.includes('student') || byHand !== undefined,
      wording: byHand?.wording ?? step.wording,
      evidence: JSON.stringify(d.evidence),
      passed: byHand ? JSON.stringify(byHand.passed) : null,
      passed_by: byHand?.by ?? null,
    };
    return { d, nudge, state, together: step.together === true && byHand === undefined };
  });
  // As rows: objects that are watched would be looked at again with every part.
  const knex = em.getKnex();
  const written = (await runReturning(
    em,
    nudgeHolds,
    knex('nudge')
      .insert(made.map(({ nudge }) => nudge))
      .returning(['id', 'idempotency_key']),
  )) as readonly { readonly id: number; readonly idempotency_key: string }[];
  const ids = new Map(written.map((row) => [row.idempotency_key, row.id]));
  const messages = made.flatMap(({ d, nudge, state, together }) => {
    const lead = Math.max(
      0,
      d.to.findIndex((to) => to.kind === 'student'),
    );
    const heldFor = d.outcome === 'held' ? d.heldFor : null;
    return d.to.map((to, i) => {
      const sendAt = d.sendAt ?? d.round;
      const bundle = together ? `${d.rule}:${d.round}:${d.step}:${to.address.toLowerCase()}` : null;
      const own = { nudge: ids.get(nudge.idempotency_key)!, course: course.id, lead: i === lead };
      return { ...to, ...own, state, held_for: heldFor, send_at: sendAt, bundle };
    });
  });
  if (messages.length > 0) await run(em, messageHolds, knex('message').insert(messages));
  return made.map(({ nudge }) => ids.get(nudge.idempotency_key)!);
}

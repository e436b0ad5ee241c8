/** Decisions as nudges and their messages, queued or waiting; nothing is rendered or sent here. */
import type { Rule, Step } from '@zest-bell/core/rules';
import { nudgeKey, type MessageState } from '@zest-bell/core/nudges';
import type { Decision, Explained, WithheldReason } from '@zest-bell/core/rounds';
import type { LiveCourse } from '../course/activity/live.ts';
import { MessageRow, NudgeRow } from '../mail/nudges/entity.ts';
import type { Tx } from '../platform/database/orm.ts';
import { inSlices } from '../platform/database/query.ts';
import { othersTurn } from '../platform/work/inTurns.ts';
import type { RuleRow } from '../rules/entity.ts';
import type { Actor } from '@zest-bell/core/access';

/** Rows that are stored before others have their turn: a large round does not hold up the whole server. */
export const AT_ONCE = 200;

export interface ToStore {
  readonly row: RuleRow;
  readonly rule: Rule;
  readonly decisions: readonly Explained[];
  /** Sent by an instructor, who passed these limits, with a text of their choice. */
  readonly byHand?: { readonly by: Actor; readonly passed: readonly WithheldReason[]; readonly wording: string };
}

/** Stores what was decided to write. A nudge that is there already (the same rule rang at this very instant) is repeated. */
export async function storeNudges(
  em: Tx,
  course: LiveCourse,
  decided: readonly ToStore[],
): Promise<{ readonly repeated: ReadonlySet<Decision>; readonly ids: readonly number[] }> {
  const keyOf = (d: Decision) => `${course.id}:${nudgeKey(d.rule, d.student, d.round)}`;
  const writing = decided.flatMap(({ row, rule, decisions, byHand }) =>
    decisions.flatMap((d) => (d.outcome === 'withheld' ? [] : [{ d, row, step: rule.steps[d.step]!, byHand }])),
  );
  const known = new Set<string>();
  for (const slice of inSlices(writing.map(({ d }) => keyOf(d)))) {
    for (const n of await em.find(NudgeRow, { idempotencyKey: { $in: slice } })) known.add(n.idempotencyKey);
  }
  const fresh = writing.filter(({ d }) => !known.has(keyOf(d)));
  const ids: number[] = [];
  for (let from = 0; from < fresh.length; from += AT_ONCE) {
    ids.push(...(await storeSome(em, course, fresh.slice(from, from + AT_ONCE), keyOf)));
    await othersTurn();
  }
  const repeated = new Set(writing.flatMap(({ d }) => (known.has(keyOf(d)) ? [d] : [])));
  return { repeated, ids };
}

type ToWrite = Pick<ToStore, 'row' | 'byHand'> & { readonly d: Explained; readonly step: Step };

async function storeSome(
  em: Tx,
  course: LiveCourse,
  some: readonly ToWrite[],
  keyOf: (d: Decision) => string,
): Promise<number[]> {
  const made = some.map(({ d, row, step, byHand }) => {
    const state: MessageState = d.outcome === 'sent' ? 'queued' : d.outcome === 'held' ? 'held' : 'withdrawn';
    const nudge = em.create(NudgeRow, {
      course: course.id,
      idempotencyKey: keyOf(d),
      rule: d.rule,
      ruleVersion: row.version,
      student: d.student,
      roundAt: d.round,
      step: d.step,
      spellStart: d.spellStart,
      state,
      reason: d.outcome === 'withdrawn' ? d.reason : null,
      toStudent: step.to.includes('student') || byHand !== undefined,
      wording: byHand?.wording ?? step.wording,
      evidence: d.evidence,
      passed: byHand?.passed ?? null,
      passedBy: byHand?.by ?? null,
    });
    return { d, nudge, state, together: step.together === true && byHand === undefined };
  });
  await em.flush();
  for (const { d, nudge, state, together } of made) {
    const lead = Math.max(
      0,
      d.to.findIndex((to) => to.kind === 'student'),
    );
    const heldFor = d.outcome === 'held' ? d.heldFor : null;
    d.to.forEach((to, i) => {
      const sendAt = d.sendAt ?? d.round;
      const bundle = together ? `${d.rule}:${d.round}:${d.step}:${to.address.toLowerCase()}` : null;
      const own = { nudge: nudge.id, course: course.id, lead: i === lead, state, heldFor, sendAt, bundle };
      em.create(MessageRow, { ...to, ...own });
    });
  }
  await em.flush();
  return made.map(({ nudge }) => nudge.id);
}

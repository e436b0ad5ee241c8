/** What the coming rounds hold if nobody does anything more. */
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import type { Decision } from '../decide/decision.ts';
import { NudgeLog, type LoggedNudge, type Reply } from '../decide/log.ts';
import { replayInParts } from './replay.ts';
import { runWhole, type WorkInParts } from '../../time/inParts.ts';

/**
 * Decides the rounds in `(now, until]` from the log as it is. What is still queued is taken to leave; what is held
 * stays held, so the total is a lower bound, as in a replay (engine R10).
 */
export const previewComingRounds = (...given: Parameters<typeof previewComingRoundsInParts>): Decision[] =>
  runWhole(previewComingRoundsInParts(...given));

/** The same, a part for each round. */
export function* previewComingRoundsInParts(
  rules: readonly Rule[],
  facts: Facts,
  nudges: readonly LoggedNudge[],
  now: Instant,
  until: Instant,
  replies: readonly Reply[] = [],
): WorkInParts<Decision[]> {
  const settled = nudges.map((n): LoggedNudge =>
    n.state === 'queued' || n.state === 'handing' ? { ...n, state: 'sent' } : n,
  );
  return yield* replayInParts(rules, facts, { from: now + 1, until }, new NudgeLog(settled, replies));
}

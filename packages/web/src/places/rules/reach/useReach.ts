/** The reach of a draft as it changes: its measures are in the page's worker, and each change is computed there. */
import { useEffect, useMemo, useRef, useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { Problem } from '@zest-bell/core/problem';
import { nextRound, type Instant } from '@zest-bell/core/time';
import { leavesOf } from '@zest-bell/core/conditions';
import type { Rule } from '@zest-bell/core/rules';
import { receivedReach, type Reach } from '@zest-bell/core/rounds';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../../lib/api.ts';
import type { Here } from '../../../lib/here.ts';
import { forget, measuresWorker, momentKey, useMeasures } from '../../../lib/measures/useMeasures.ts';

export type ReachResult =
  { readonly ok: true; readonly reach: Reach } | { readonly ok: false; readonly problems: readonly Problem[] };

export interface LiveReach {
  readonly result: ReachResult | null;
  /** Whether the result is that of the rule and the moment asked for; otherwise a newer one is on its way. */
  readonly current: boolean;
  readonly error: unknown;
}

/** `most`: of how many people the evidence is wanted. */
export function useReach(here: Here, rule: Rule, most: number): LiveReach {
  const leaves = useMemo(() => leavesOf(rule.when), [rule.when]);
  const measures = useMeasures(here, leaves);
  // What would be decided is decided at the next round, everywhere alike: here, in rehearsals, when it is turned on, and on Today.
  const then = useMemo(
    () => nextRound(rule.rhythm, here.course.calendar, here.now) ?? here.now,
    [rule.rhythm, here.course, here.now],
  );
  const logged = useQuery({
    queryKey: ['limitFacts', here.id, rule.id, here.now, then],
    queryFn: () => ask(contract.rules.limitFacts, { course: here.id }, { query: { rule: rule.id, at: then } }),
    placeholderData: keepPreviousData,
  });
  const worker = measuresWorker();
  const [answer, setAnswer] = useState<{ result: ReachResult; rule: Rule; at: Instant } | null>(null);
  const [failure, setFailure] = useState<unknown>(null);
  const facts = logged.isPlaceholderData ? undefined : logged.data;
  const key = momentKey(here);
  const latest = useRef({
    key,
    rule,
    at: here.now,
    then,
    most,
    facts,
    course: here.course,
    busy: false,
    again: false,
    missed: null as Rule | null,
  });

  useEffect(() => {
    const state = latest.current;
    Object.assign(state, { key, rule, at: here.now, then, most, facts, course: here.course });
    if (!measures.ready || !facts) return;
    // While one computation runs, only the newest draft waits: a drag never piles up work.
    const compute = async () => {
      if (state.busy) {
        state.again = true;
        return;
      }
      state.busy = true;
      try {
        do {
          state.again = false;
          if (!state.facts) break;
          const { course, ...asked } = { rule: state.rule, at: state.at, course: state.course };
          const sent = await worker.reach(state.key, asked.rule, asked.at, state.facts, state.most, state.then);
          // The worker has let the moment or a measure go: it is asked for again, once for a draft.
          if (sent === null && state.missed !== asked.rule) {
            state.missed = asked.rule;
            await forget(state.key);
          }
          const received = sent?.ok ? { ok: true as const, reach: receivedReach(sent.reach, course) } : sent;
          if (received) setAnswer({ result: received, ...asked });
          setFailure(null);
        } while (state.again);
      } catch (error) {
        setFailure(error);
      } finally {
        state.busy = false;
      }
    };
    void compute();
  }, [worker, key, rule, here.now, then, here.course, most, facts, measures.ready]);

  return {
    result: answer?.result ?? null,
    current: answer?.rule === rule && answer.at === here.now,
    error: measures.error ?? logged.error ?? failure,
  };
}

/** The reach of a draft as it changes: its measures are in the page's worker, and each change is computed there. */
import { useEffect, useMemo, useRef, useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { Course } from '@zest-bell/core/course';
import type { Problem } from '@zest-bell/core/problem';
import { nextRound, type Instant } from '@zest-bell/core/time';
import { leavesOf } from '@zest-bell/core/conditions';
import type { Rule } from '@zest-bell/core/rules';
import { receivedReach, type Reach } from '@zest-bell/core/rounds';
import { contract, type AnswerOf } from '@zest-bell/core/contract';
import { ask } from '../../../lib/api.ts';
import { latestWins, type LatestWins } from '../../../lib/latestWins.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { forget, measuresWorker, momentKey, useMeasures } from '../../../lib/measures/useMeasures.ts';

export type ReachResult =
  { readonly ok: true; readonly reach: Reach } | { readonly ok: false; readonly problems: readonly Problem[] };

export interface LiveReach {
  readonly result: ReachResult | null;
  /** Whether the result is that of the rule and the moment asked for; otherwise a newer one is on its way. */
  readonly current: boolean;
  readonly error: unknown;
}

interface ReachQuestion {
  readonly key: string;
  readonly rule: Rule;
  readonly at: Instant;
  readonly then: Instant;
  readonly most: number;
  readonly facts: AnswerOf<typeof contract.rules.limitLog>;
  readonly course: Course;
}

/** `most`: of how many people the evidence is wanted. */
export function useReach(here: CourseHere, rule: Rule, most: number): LiveReach {
  const leaves = useMemo(() => leavesOf(rule.when), [rule.when]);
  const measures = useMeasures(here, leaves);
  // What would be decided is decided at the next round, everywhere alike: here, in rehearsals, when it is turned on, and on Today.
  const then = useMemo(
    () => nextRound(rule.rhythm, here.course.calendar, here.now) ?? here.now,
    [rule.rhythm, here.course, here.now],
  );
  const logged = useQuery({
    queryKey: ['limitLog', here.id, rule.id, here.now, then],
    queryFn: () => ask(contract.rules.limitLog, { course: here.id }, { query: { rule: rule.id, at: then } }),
    placeholderData: keepPreviousData,
  });
  const worker = measuresWorker();
  const [answer, setAnswer] = useState<{ result: ReachResult; rule: Rule; at: Instant } | null>(null);
  const [failure, setFailure] = useState<unknown>(null);
  const facts = logged.isPlaceholderData ? undefined : logged.data;
  const key = momentKey(here);
  const asker = useRef<LatestWins<ReachQuestion> | null>(null);

  useEffect(() => {
    // For a rule with measures that the worker has dropped, they are requested again, once.
    let missed: Rule | null = null;
    const live = latestWins(
      async ({ key, rule, at, facts, most, then }: ReachQuestion) => worker.reach(key, rule, at, facts, most, then),
      {
        answered: (sent, { key, rule, at, course }) => {
          setFailure(null);
          if (sent !== null) {
            setAnswer({ rule, at, result: sent.ok ? { ok: true, reach: receivedReach(sent.reach, course) } : sent });
          } else if (missed !== rule) {
            missed = rule;
            forget(key).catch(setFailure);
          }
        },
        failed: setFailure,
      },
    );
    asker.current = live;
    return () => live.stop();
  }, [worker]);

  useEffect(() => {
    if (measures.ready && facts) {
      asker.current?.ask({ key, rule, at: here.now, then, most, facts, course: here.course });
    }
  }, [worker, key, rule, here.now, then, here.course, most, facts, measures.ready]);

  return {
    result: answer?.result ?? null,
    current: answer?.rule === rule && answer.at === here.now,
    error: measures.error ?? logged.error ?? failure,
  };
}

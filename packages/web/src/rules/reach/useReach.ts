/** The reach of a draft as it changes: facts fetched once a measure, the rest computed in the worker. */
import { useEffect, useMemo, useRef, useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { wrap, type Remote } from 'comlink';
import {
  callKey,
  leavesOf,
  receivedReach,
  type Leaf,
  type Problem,
  type Reach,
  type ReachFacts,
  type Rule,
} from '@zest-bell/core';
import { api } from '../../app/api.ts';
import type { Here } from '../../app/here.ts';
import type { ReachWorker } from './reach.worker.ts';

export type ReachResult =
  { readonly ok: true; readonly reach: Reach } | { readonly ok: false; readonly problems: readonly Problem[] };

export interface LiveReach {
  readonly result: ReachResult | null;
  readonly error: unknown;
}

/** `most`: of how many people the evidence is wanted. */
export function useReach(here: Here, rule: Rule, most: number): LiveReach {
  const leaves = useMemo(() => [...new Map(leavesOf(rule.when).map((l) => [callKey(l), l])).values()], [rule.when]);
  const keys = leaves.map((l: Leaf) => callKey(l)).join();
  const facts = useQuery({
    queryKey: ['reach', here.id, keys, here.now],
    queryFn: () => api.post<ReachFacts>(`/courses/${here.id}/rules/reach`, { conditions: leaves, at: here.now }),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const worker = reachWorker();
  const [result, setResult] = useState<ReachResult | null>(null);
  const [failure, setFailure] = useState<unknown>(null);
  const latest = useRef({ rule, most, at: 0, busy: false, again: false });

  // Loaded before anything is asked: the worker answers in order, so never from another rule's or an older moment's facts.
  useEffect(() => {
    if (facts.data && !facts.isPlaceholderData) worker.load(here.answer, facts.data).catch(setFailure);
  }, [worker, facts.data, facts.isPlaceholderData, here.answer]);

  useEffect(() => {
    const state = latest.current;
    state.rule = rule;
    state.most = most;
    if (!facts.data || facts.isPlaceholderData) return;
    state.at = facts.data.at;
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
          const sent = await worker.reach(state.rule, state.at, state.most);
          setResult(sent?.ok ? { ok: true, reach: receivedReach(sent.reach) } : sent);
        } while (state.again);
      } catch (error) {
        setFailure(error);
      } finally {
        state.busy = false;
      }
    };
    void compute();
  }, [worker, rule, most, facts.data, facts.isPlaceholderData, here.answer]);

  return { result, error: facts.error ?? failure };
}

/** One worker for as long as the page lives; each rule that is opened loads its own facts into it. */
let shared: Remote<ReachWorker> | null = null;

function reachWorker(): Remote<ReachWorker> {
  shared ??= wrap<ReachWorker>(new Worker(new URL('./reach.worker.ts', import.meta.url), { type: 'module' }));
  return shared;
}

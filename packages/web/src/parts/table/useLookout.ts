/** The table as the page shows it: columns and log asked of the server once, everything after that in the page’s worker. */
import { useEffect, useMemo, useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import type { Instant } from '@zest-bell/core/time';
import { unpackDaily, type DailyActivity } from '@zest-bell/core/activity';
import { callsOf, rulesIn, type LookoutShown, type LookoutView } from '@zest-bell/core/lookout';
import type { LookoutLogAnswer, LookoutRulesAnswer, OwnRemarks } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import type { SentTable } from '../../lib/measures/moments.ts';
import { measuresWorker, tableInstant, useMeasures } from '../../lib/measures/useMeasures.ts';

export interface Lookout {
  readonly error: unknown;
  /** Null until it is first there. */
  readonly table: SentTable | null;
  readonly shown: LookoutShown | null;
  readonly log: LookoutLogAnswer['students'];
  readonly daily: DailyActivity | null;
  readonly remarks: OwnRemarks;
}

const NO_RULES: LookoutRulesAnswer = { at: 0, rules: {} };

const NO_REMARKS: OwnRemarks = { pins: [], notes: {}, aside: {} };

export function useRemarks(here: CourseHere): OwnRemarks {
  const answer = useQuery({
    queryKey: ['remarks', here.id],
    queryFn: () => ask(contract.desk.remarks, { course: here.id }),
  });
  return answer.data ?? NO_REMARKS;
}

/** What the log knew of each student as of an instant. */
export const useLookoutLog = (here: CourseHere, at: Instant) =>
  useQuery({
    queryKey: ['lookoutLog', here.id, at],
    queryFn: () => ask(contract.desk.log, { course: here.id }, { query: { at } }),
    staleTime: 20_000,
  });

export function useLookout(here: CourseHere, view: LookoutView, search: string, at: Instant): Lookout {
  const of = tableInstant(here, at);
  const { key } = of;
  const calls = useMemo(() => callsOf(view), [view]);
  const measures = useMeasures(here, calls, of);
  const log = useLookoutLog(here, at);
  const asked = rulesIn(view).join(',');
  const rules = useQuery({
    queryKey: ['lookoutRules', here.id, key, at, asked],
    queryFn: () =>
      asked === '' ? NO_RULES : ask(contract.desk.rules, { course: here.id }, { query: { at, rules: asked } }),
    staleTime: 20_000,
  });
  const daily = useQuery({
    queryKey: ['daily', here.id, here.now],
    queryFn: async () => unpackDaily(new Uint8Array(await ask.bytes(contract.desk.activity, { course: here.id }))),
    staleTime: Infinity,
  });
  const remarks = useRemarks(here);
  const worker = measuresWorker();
  const students = log.data?.students;
  const [table, setTable] = useState<SentTable | null>(null);
  const [shown, setShown] = useState<LookoutShown | null>(null);
  const { columns } = view;
  // The table stays as it was until these are here: a rule that is still loading would wrongly match nobody.
  const matches = rules.data?.rules;
  const ready = measures.ready && students !== undefined && matches !== undefined;

  useEffect(() => {
    if (!ready) return;
    let current = true;
    const moment = { key, at };
    void worker
      .takeLog(moment, students)
      .then(() => worker.takeRules(moment, matches))
      .then(() => worker.columns(moment, columns))
      .then((found) => current && found && setTable(found));
    return () => {
      current = false;
    };
  }, [ready, worker, key, at, columns, students, matches]);

  // The newest brush alone counts: an answer about an earlier one that comes late is left.
  useEffect(() => {
    if (!ready) return;
    let current = true;
    const query = { ...view, search };
    void worker.show({ key, at }, query).then((found) => current && found && setShown(found));
    return () => {
      current = false;
    };
  }, [ready, worker, key, at, view, search, table]);

  return {
    error: measures.error ?? log.error ?? rules.error,
    table,
    shown,
    log: students ?? {},
    daily: daily.data ?? null,
    remarks,
  };
}

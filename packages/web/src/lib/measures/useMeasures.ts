/** The measures of a course in the page's one worker: each is asked for once, and stays there for every place. */
import { useEffect, useMemo, useState } from 'react';
import { useQueries } from '@tanstack/react-query';
import { transfer, wrap, type Remote } from 'comlink';
import type { Instant } from '@zest-bell/core/time';
import { callKey, type MeasureCall } from '@zest-bell/core/measures';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../api.ts';
import type { CourseHere } from '../here.ts';
import { queryClient } from '../queries.ts';
import type { Moments } from './moments.ts';

let shared: Remote<Moments> | null = null;

export function measuresWorker(): Remote<Moments> {
  shared ??= wrap<Moments>(new Worker(new URL('./measures.worker.ts', import.meta.url), { type: 'module' }));
  return shared;
}

/** What the worker's columns are about: the course as it is, at the moment that the place speaks of. */
export const momentKey = (here: CourseHere): string => `${here.id} ${here.answer.version} ${here.now}`;

/** Students from which on a table asks for the values of one instant alone: whole timelines would be megabytes a column. */
const LARGE_CLASS = 300;

export interface TableInstant {
  readonly key: string;
  readonly at: Instant;
  /** Whether what is known under the key is of this instant alone. */
  readonly only: boolean;
}

/** Where a table as of an instant finds its measures in the worker. */
export function tableInstant(here: CourseHere, at: Instant): TableInstant {
  const only = here.course.people.length > LARGE_CLASS;
  return { key: only ? `${momentKey(here)} at ${at}` : momentKey(here), at: only ? at : here.now, only };
}

/** Asks anew for the columns of a moment that are no longer in the worker. */
export const forget = (key: string): Promise<void> => queryClient.invalidateQueries({ queryKey: ['column', key] });

export interface Measures {
  /** True once every measure is in the worker. */
  readonly ready: boolean;
  readonly error: unknown;
}

/** `of` is of a table; all else asks for whole timelines as of now. */
export function useMeasures(here: CourseHere, calls: readonly MeasureCall[], of?: TableInstant): Measures {
  const worker = measuresWorker();
  const { key, at, only } = of ?? { key: momentKey(here), at: here.now, only: false };
  const wanted = useMemo(() => [...new Map(calls.map((call) => [callKey(call), call])).entries()], [calls]);
  const [about, setAbout] = useState<string | null>(null);
  // The worker answers in order: it knows the course before it is given anything of it.
  useEffect(() => {
    void worker.about(key, here.answer).then(() => setAbout(key));
  }, [worker, key, here.answer]);
  const columns = useQueries({
    queries: wanted.map(([name, call]) => ({
      queryKey: ['column', key, name],
      queryFn: async () => {
        const query = { call: JSON.stringify(parametersOf(call)), at, ...(only && { only: 'true' }) };
        const bytes = await ask.bytes(contract.desk.columns, { course: here.id }, { query });
        await worker.about(key, here.answer);
        await worker.take(key, transfer(bytes, [bytes]));
        return true;
      },
      // A moment does not change: what is known of it stays, until something in the course was changed from here.
      staleTime: Infinity,
    })),
  });
  return {
    ready: about === key && columns.every((c) => c.isSuccess && !c.isFetching),
    error: columns.find((c) => c.error)?.error ?? null,
  };
}

/** A leaf without its comparison. */
function parametersOf(call: MeasureCall & { readonly is?: unknown; readonly value?: unknown }): MeasureCall {
  const { is: _is, value: _value, ...parameters } = call;
  return parameters;
}

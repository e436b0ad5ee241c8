/** A long computation of the server: how far it is, what it has found so far, and a way to stop it. */
import { useState } from 'react';
import type { AnswerOf, AnyEndpoint, BodyGiven, PathGiven } from '@zest-bell/core/contract';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useSettled } from '../ui/useSettled.ts';
import { ask, type ProgressLine } from './api.ts';

export interface LongAnswer<T> {
  readonly data: T | undefined;
  readonly error: unknown;
  /** While it runs: how much is done, 0 to 1, once that is known. */
  readonly share: number | null;
  readonly isRunning: boolean;
  /** Lines that came before the result. */
  readonly told: readonly ProgressLine[];
  /** Whether somebody stopped it before there was a result. */
  readonly isStopped: boolean;
  readonly stop: () => void;
  readonly again: () => void;
}

/** Whether a choice is still being made: a request for each keystroke would be too many. */
const SETTLES = 250;

/** `order` null: nothing is asked. `keep`: the last result stays until there is a new one. */
export function useLongWork<E extends AnyEndpoint>(
  key: readonly unknown[],
  endpoint: E,
  path: PathGiven<E>,
  order: object | null,
  keep = false,
): LongAnswer<AnswerOf<E>> {
  const wanted = order === null ? '' : JSON.stringify(order);
  const settled = useSettled(wanted, SETTLES);
  const client = useQueryClient();
  const [going, setGoing] = useState<WorkInProgress>(NOTHING);
  const queryKey = [...key, settled];
  const query = useQuery({
    queryKey,
    queryFn: ({ signal }) => {
      const order = settled;
      setGoing({ ...NOTHING, order });
      const body = JSON.parse(settled) as BodyGiven<E>;
      return ask.lines(endpoint, path, { body, signal }, (line) =>
        setGoing((known) => {
          // Of an order that was given up nothing more is wanted.
          if (known.order !== order) return known;
          return line.share === undefined ? { ...known, told: [...known.told, line] } : { ...known, share: line.share };
        }),
      );
    },
    // An order that waits is not asked for under another one's name.
    enabled: settled !== '' && wanted !== '',
    ...(keep && { placeholderData: keepPreviousData }),
  });
  const { data, error, fetchStatus, isPlaceholderData, refetch } = query;
  const hasNone = data === undefined || isPlaceholderData;
  // While an order waits, what is known belongs to the one before.
  const isCurrent = settled === wanted;
  return {
    data: isCurrent || keep ? data : undefined,
    error,
    ...(isCurrent && going.order === settled ? going : NOTHING),
    isRunning: fetchStatus === 'fetching',
    isStopped: fetchStatus === 'idle' && hasNone && error === null && settled !== '' && isCurrent,
    stop: () => void client.cancelQueries({ queryKey }),
    again: () => void refetch(),
  };
}

interface WorkInProgress extends Pick<LongAnswer<unknown>, 'share' | 'told'> {
  readonly order: string;
}

const NOTHING: WorkInProgress = { order: '', share: null, told: [] };

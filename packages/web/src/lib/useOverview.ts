import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { Instant } from '@zest-bell/core/time';
import { ask } from './api.ts';
import type { CourseHere } from './here.ts';

/** The class as a whole at an instant. */
export const useOverview = (here: CourseHere, at: Instant) =>
  useQuery({
    queryKey: ['overview', here.id, here.answer.version, here.now, at],
    queryFn: () => ask(contract.desk.overview, { course: here.id }, { query: { at } }),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });

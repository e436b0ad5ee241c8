import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import { ask } from './api.ts';
import type { CourseHere } from './here.ts';

const NONE: readonly string[] = [];

/** The criteria of the course’s rubrics, as words that can be typed; none until they are there. */
export const useCriteria = (here: CourseHere): readonly string[] =>
  useQuery({
    queryKey: ['criteria', here.id, here.answer.version],
    queryFn: () => ask(contract.desk.criteria, { course: here.id }),
  }).data ?? NONE;

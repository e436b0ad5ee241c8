import { useOutletContext } from 'react-router';
import type { Instant } from '@zest-bell/core';
import type { CourseView } from './queries.ts';

export interface Here extends CourseView {
  readonly now: Instant;
  readonly demo: boolean;
}

/** The course and the moment that every place is about. */
export const useHere = (): Here => useOutletContext<Here>();

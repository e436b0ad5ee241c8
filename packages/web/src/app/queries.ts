/** What the server knows, as the screens ask for it. One key a question; whatever moves the course asks them all again. */
import { useMemo } from 'react';
import { QueryClient, useQuery } from '@tanstack/react-query';
import {
  makeCourse,
  type ClockAnswer,
  type Course,
  type CourseAnswer,
  type CourseCard,
  type OutcomesAnswer,
  type RuleCard,
  type SessionAnswer,
  type StandingAnswer,
  type TermAnswer,
  type WordingAnswer,
  type WordingResultsAnswer,
} from '@zest-bell/core';
import { api, ApiProblem } from './api.ts';

const isBusy = (error: Error): boolean => error instanceof ApiProblem && error.passes;

/** For half a minute while the server is busy; what it refuses it would refuse again. */
export function mayAskAgain(count: number, error: Error): boolean {
  if (isBusy(error)) return count < 60;
  return count < 2 && !(error instanceof ApiProblem && error.status >= 400 && error.status < 500);
}

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 20_000,
      retry: mayAskAgain,
      retryDelay: (count, error) => (isBusy(error) ? 500 : 1000 * 2 ** count),
    },
  },
});

/** After anything that changes a course: everything on screen is asked for again. */
export const refreshAll = (): Promise<void> =>
  queryClient.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'session' });

export const useSession = () =>
  useQuery({ queryKey: ['session'], queryFn: () => api.get<SessionAnswer>('/session'), staleTime: Infinity });

export const clockQuery = { queryKey: ['clock'], queryFn: () => api.get<ClockAnswer>('/clock') };

export const useClock = () => useQuery({ ...clockQuery, refetchInterval: 30_000 });

export const useCourses = () => useQuery({ queryKey: ['courses'], queryFn: () => api.get<CourseCard[]>('/courses') });

export interface CourseView {
  readonly id: number;
  readonly course: Course;
  readonly answer: CourseAnswer;
}

/** The course with the core's own look-ups built again in the browser. */
export function useCourse(id: number) {
  const query = useQuery({
    queryKey: ['course', id],
    queryFn: () => api.get<CourseAnswer>(`/courses/${id}`),
  });
  const view = useMemo(
    (): CourseView | undefined => query.data && { id, course: makeCourse(query.data), answer: query.data },
    [id, query.data],
  );
  return { ...query, view };
}

export const useTerm = (course: number) =>
  useQuery({ queryKey: ['term', course], queryFn: () => api.get<TermAnswer>(`/courses/${course}/term`) });

export const useRules = (course: number) =>
  useQuery({ queryKey: ['rules', course], queryFn: () => api.get<RuleCard[]>(`/courses/${course}/rules`) });

export const useWordings = (course: number) =>
  useQuery({ queryKey: ['wordings', course], queryFn: () => api.get<WordingAnswer[]>(`/courses/${course}/wordings`) });

export const useWordingResults = (course: number) =>
  useQuery({
    queryKey: ['wordingResults', course],
    queryFn: () => api.get<WordingResultsAnswer>(`/courses/${course}/wordings/results`),
  });

/** Who came back and who replied, over the course and by rule. */
export const useOutcomes = (course: number) =>
  useQuery({
    queryKey: ['outcomes', course],
    queryFn: () => api.get<OutcomesAnswer>(`/courses/${course}/log/outcomes`),
  });

/** Whether the course rings and sends as it should. */
export const useStanding = (course: number) =>
  useQuery({
    queryKey: ['standing', course],
    queryFn: () => api.get<StandingAnswer>(`/courses/${course}/standing`),
    // Whoever comes back to the page sees at once whether anything has happened.
    staleTime: 0,
    // While many messages go out, their bar moves.
    refetchInterval: (query) => (query.state.data?.sending ? 1000 : 30_000),
  });

/** What the server knows, as the screens ask for it. One key a question; whatever moves the course asks them all again. */
import { useMemo } from 'react';
import { QueryClient, useQuery, type Query, type QueryKey } from '@tanstack/react-query';
import { makeCourse, type Course } from '@zest-bell/core/course';
import type { CourseAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask, ApiProblem } from './api.ts';

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

/**
 * After anything that changes a course: everything on screen is asked for again. What is on its way for the first time was asked before
 * the change: left alone, its answer would stand as the new one.
 */
export async function refreshAll(): Promise<void> {
  await (
    await askAgain()
  ).all;
}

/** The same, and waits no longer than until what has this key is there. */
export async function refreshUntil(shown: QueryKey): Promise<void> {
  await askAgain();
  // It is on its way already, with the rest.
  await queryClient.refetchQueries({ queryKey: shown, type: 'active' }, { cancelRefetch: false });
}

async function askAgain(): Promise<{ readonly all: Promise<void> }> {
  const isOfCourse = (q: Query) => q.queryKey[0] !== 'session';
  await queryClient.cancelQueries({
    predicate: (q) => isOfCourse(q) && q.state.data === undefined && q.state.fetchStatus === 'fetching',
  });
  return { all: queryClient.invalidateQueries({ predicate: isOfCourse }) };
}

/** Who is signed in. The page asks for it as soon as it is opened, while its scripts are on their way. */
export const sessionQuery = { queryKey: ['session'], queryFn: () => ask(contract.access.session), staleTime: Infinity };

export const useSession = () => useQuery(sessionQuery);

/** What keeps rules or mail waiting, over all courses, and what is wrong with the server: for administrators. */
export const adminTroublesQuery = { queryKey: ['admin', 'troubles'], queryFn: () => ask(contract.admin.troubles) };

export const clockQuery = { queryKey: ['clock'], queryFn: () => ask(contract.desk.clock) };

export const useClock = () => useQuery({ ...clockQuery, refetchInterval: 30_000 });

export const useCourses = () => useQuery({ queryKey: ['courses'], queryFn: () => ask(contract.course.all) });

export interface CourseView {
  readonly id: number;
  readonly course: Course;
  readonly answer: CourseAnswer;
}

/** The course with the core's own look-ups built again in the browser. */
export function useCourse(id: number) {
  const query = useQuery({ queryKey: ['course', id], queryFn: () => ask(contract.course.read, { course: id }) });
  const view = useMemo(
    (): CourseView | undefined => query.data && { id, course: makeCourse(query.data), answer: query.data },
    [id, query.data],
  );
  return { ...query, view };
}

export const useTerm = (course: number) =>
  useQuery({ queryKey: ['term', course], queryFn: () => ask(contract.course.term, { course }) });

export const useRules = (course: number) =>
  useQuery({ queryKey: ['rules', course], queryFn: () => ask(contract.rules.all, { course }) });

export const useWordings = (course: number) =>
  useQuery({ queryKey: ['wordings', course], queryFn: () => ask(contract.wording.all, { course }) });

export const useWordingResults = (course: number) =>
  useQuery({ queryKey: ['wordingResults', course], queryFn: () => ask(contract.wording.results, { course }) });

/** Who came back and who replied, over the course and by rule. */
export const useOutcomes = (course: number) =>
  useQuery({ queryKey: ['outcomes', course], queryFn: () => ask(contract.mail.outcomes, { course }) });

/** Whether the course rings and sends as it should. */
export const useStanding = (course: number) =>
  useQuery({
    queryKey: ['standing', course],
    queryFn: () => ask(contract.course.standing, { course }),
    // Anyone who comes back to the page sees at once whether anything has happened.
    staleTime: 0,
    // While many messages go out, their bar moves.
    refetchInterval: (query) => (query.state.data?.sending ? 1000 : 30_000),
  });

/** Rules and wordings that other courses have too: what the server knows of them, and where they are shown. */
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { CarryProblem } from '@zest-bell/core/carry';
import type { SetCandidate, SetCard, SetKind, SetMember } from '@zest-bell/core/exchange';
import { plural } from '@zest-bell/core/time';
import { ask } from './api.ts';
import { carryProblemWords } from './carryWords.ts';

export const useSetCards = (course: number) =>
  useQuery({ queryKey: ['sets', course], queryFn: () => ask(contract.sets.all, { course }) });

export const useSetCard = (course: number, kind: SetKind, key: string): SetCard | undefined =>
  useSetCards(course).data?.find((c) => c.kind === kind && c.key === key);

export const setPath = (course: number, kind: SetKind, key: string): string =>
  `/c/${course}/${kind === 'rule' ? 'rules' : 'wording'}/${encodeURIComponent(key)}/courses`;

/** “in 5 courses, 1 differs”; of courses that the reader cannot see, nothing but that they are there. */
export function setWords({ courses, hidden, differ }: Pick<SetCard, 'courses' | 'hidden' | 'differ'>): string {
  const where = `in ${plural(courses, 'course')}`;
  const same = hidden > 0 ? [] : ['all the same'];
  const compared = differ === 0 ? same : [`${differ} ${differ === 1 ? 'differs' : 'differ'}`];
  const unseen = hidden > 0 ? `; ${hidden} that you cannot see` : '';
  return `${[where, ...compared].join(', ')}${unseen}`;
}

export function setProblemWords(problem: CarryProblem): string {
  if (problem.code === 'item') return `It names “${problem.name}”, which has no match in this course.`;
  if (problem.code === 'group') return `It names the group “${problem.name}”, which this course does not have.`;
  return carryProblemWords(problem);
}

export const LEFT_ALONE: Readonly<
  Record<NonNullable<SetMember['leftAlone']> | NonNullable<SetCandidate['leftAlone']>, string>
> = {
  archivedCourse: 'The course is archived, so nothing in it changes.',
  notAllowed: 'Your role in this course does not allow changes.',
  putAway: 'It is in the archive of this course.',
  otherTerm: 'The courses do not run at the same time. Carry the rule over instead.',
  hasIt: 'It is in this course already.',
};

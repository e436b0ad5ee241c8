/** A course as a page has it open, for tests of parts and places. */
import type { Course } from '@zest-bell/core/course';
import type { CourseAnswer } from '@zest-bell/core/exchange';
import type { CourseHere } from '../lib/here.ts';
import { at, course } from './course.ts';

export const LIMITS = {
  settings: { quietHours: null, budget: null },
  breaks: [],
  marks: { mastery: 80 },
  guards: { askAbove: 0.5, staleHours: null },
};

export function hereOf(more: Partial<CourseHere> = {}, of: Course = course): CourseHere {
  const sender = {
    name: 'Ada Lind',
    address: 'ada@saltmarsh.example',
    replyTo: 'ada@saltmarsh.example',
    signature: 'Ada Lind',
    officeHours: '',
    url: null,
    answers: 'address' as const,
  };
  const answer = {
    id: 1,
    sender,
    guards: LIMITS.guards,
    archivedAt: null,
    pauseLinks: true,
    version: 1,
    settingsVersion: 1,
    ...of,
  } as unknown as CourseAnswer;
  return { id: 1, course: of, answer, now: at('2026-09-14T09:00'), demo: false, may: () => true, ...more };
}

import { voiceOf, type SenderSettings } from '@zest-bell/core/course';
import type { CourseView } from './queries.ts';

/** How its reader signs in a course: with a sender of their own, or as the course. */
export const voiceHere = ({ answer }: CourseView): SenderSettings => voiceOf(answer.sender, answer.own);

/** A starter: a common need, filled in for a course as it is, to be changed in its sentence like any rule. */
import type { Course } from '../course/course.ts';
import type { Instant } from '../time/instant.ts';
import type { Rule } from '../rules/rule.ts';
import type { Wording } from '../wording/wording.ts';

export const STARTER_FAMILIES = ['Away', 'Content', 'Work', 'Grades', 'Praise', 'For yourself'] as const;
export type StarterFamily = (typeof STARTER_FAMILIES)[number];

export interface Starter {
  readonly id: string;
  readonly family: StarterFamily;
  readonly title: string;
  /** Why somebody would want it, in a sentence. */
  readonly why: string;
  /** Its words; what a course has already under the same id stays. */
  readonly wordings: readonly Wording[];
  /** The rule for this course, or what the course lacks for it. */
  build(course: Course, now: Instant): StarterRule;
}

export type StarterRule = { readonly ok: true; readonly rule: Rule } | { readonly ok: false; readonly needs: string };

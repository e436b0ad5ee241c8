/** What a check of a text finds, and what it is looked at against. */
import type { Course } from '../course/course.ts';
import type { Rule } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import type { Wording } from './wording.ts';

export type Words = Pick<Wording, 'subject' | 'text' | 'purpose'> & {
  /** How many files go with them, a letter among them; none unless told. */
  readonly files?: number;
  /** True for the words of a third party: nobody there is greeted as the student. */
  readonly copy?: boolean;
  /** Third parties for whom the wording has words of their own. */
  readonly copies?: Wording['copies'];
  /** The wording itself, to tell its steps from others. */
  readonly id?: string;
};

export interface Check {
  readonly code: CheckCode;
  readonly path: 'subject' | 'text';
  /** What is the matter and why, in a sentence. */
  readonly message: string;
  /** The words that it is about, as they are written; empty where it is about all of them. */
  readonly quote: string;
  readonly mend: TextFix | null;
}

export interface TextFix {
  /** On the button: "Use the field". */
  readonly label: string;
  readonly words: Pick<Words, 'subject' | 'text'>;
}

export const CHECK_CODES = [
  'noFallback',
  'timeOfDay',
  'passedDate',
  'stillTime',
  'misfit',
  'typedName',
  'attachment',
  'fileUnsaid',
  'copyWords',
  'noFirstName',
  'noWayToAnswer',
  'longSubject',
  'longText',
  'shouting',
  'blame',
  'lastReminder',
] as const;
export type CheckCode = (typeof CHECK_CODES)[number];

export interface CheckContext {
  readonly course: Course;
  /** The rules with steps that use the words. */
  readonly rules: readonly Rule[];
  readonly now: Instant;
}

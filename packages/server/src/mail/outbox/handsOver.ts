/** What requests ask of the process that hands mail over, this one or another. */
import type { News } from '../../platform/work/news.ts';

export interface MailHandOver {
  /** Hands over all that is due now. */
  drain(): Promise<void>;
  /** What is claimed of a course and not begun goes back to the queue. */
  halt(course: number): void;
}

/** Another process hands over: it is told that there is something. What is not begun it asks the database itself (`begun.ts`). */
export const handsOverElsewhere = (news: News): MailHandOver => ({
  drain: () => news.tell('mail'),
  halt: () => undefined,
});

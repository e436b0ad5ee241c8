/** What the log knows of each student, as columns read it: these choose students now, and can be no part of a rule. */
import type { CourseCalendar } from '../time/calendar.ts';
import type { Instant } from '../time/instant.ts';
import type { MessageState } from '../nudges/message.ts';
import type { Value } from '../measures/values/value.ts';
import type { LogColumn } from './columns.ts';

/** The last nudge with a message that left, or that waits for the instructor. */
export interface LastNudge {
  readonly nudge: number;
  readonly at: Instant;
  readonly ruleName: string;
  readonly state: MessageState;
  readonly replied: boolean;
  /** When the student came back after it; null while they have not, or where no act could be a return. */
  readonly returnedAt: Instant | null;
  /** Whether an act of the student could be a return. */
  readonly canReturn: boolean;
}

export interface StudentLog {
  readonly last: LastNudge | null;
  /** Nudges with a message that left for the student. */
  readonly sent: number;
  readonly replies: number;
  /** Rounds in which a limit held a nudge back. */
  readonly heldBack: number;
}

export const NOTHING_IN_LOG: StudentLog = { last: null, sent: 0, replies: 0, heldBack: 0 };

export function logValue(column: LogColumn, log: StudentLog, at: Instant, calendar: CourseCalendar): Value {
  switch (column) {
    case 'lastNudge':
      return log.last === null ? null : calendar.dayNumber(at) - calendar.dayNumber(log.last.at);
    case 'nudgesThisTerm':
      return log.sent;
    case 'replied':
      return log.replies > 0;
    case 'cameBack':
      return log.last === null || !log.last.canReturn ? null : log.last.returnedAt !== null;
    case 'heldBack':
      return log.heldBack;
  }
}

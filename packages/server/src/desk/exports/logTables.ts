/** The send log, and who was held back, as tables: the lines of the screen, all of those that its filters leave. */
import { dateTime, number, text, type ExportCell, type ExportColumn } from '@zest-bell/core/exports';
import { LOGGED_WORDS, type LogLine, type WithheldLine } from '@zest-bell/core/exchange';
import { STATE_NAMES } from '@zest-bell/core/nudges';
import { WITHHELD_WORDS } from '@zest-bell/core/rounds';

export const LOG_COLUMNS: readonly ExportColumn[] = [
  ...[dateTime('When'), text('Student ID'), text('Student'), text('Rule'), number('Step'), text('State'), text('Why')],
  ...[text('Subject'), number('Messages'), text('What came back'), dateTime('Round')],
];

const CAME: Readonly<Record<NonNullable<LogLine['answered']>, string>> = {
  reply: 'replied',
  autoReply: 'automatic reply',
  bounce: 'returned by the mail server',
};

export const logRow = (l: LogLine): ExportCell[] => [
  ...[l.at, l.student, l.studentName, l.ruleName, l.step + 1, STATE_NAMES[l.state]],
  ...[l.reason === null ? null : LOGGED_WORDS[l.reason], l.subject, l.messages],
  ...[l.answered === null ? null : CAME[l.answered], l.roundAt],
];

export const WITHHELD_COLUMNS: readonly ExportColumn[] = [
  ...[text('Student ID'), text('Student'), text('Rule'), text('Why')],
  ...[dateTime('First round'), dateTime('Last round'), number('Rounds')],
];

export const withheldRow = (l: WithheldLine): ExportCell[] => [
  ...[l.student, l.studentName, l.ruleName, WITHHELD_WORDS[l.reason], l.firstRound, l.lastRound, l.rounds],
];

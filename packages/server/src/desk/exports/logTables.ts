/** The send log, and who was held back, as tables: the lines of the screen, all of those that its filters leave. */
import { grouped } from '@zest-bell/core/course';
import type { Instant } from '@zest-bell/core/time';
import type { LiveCourse } from '../../course/activity/live.ts';
import { withoutPauseLink } from '../../mail/log/detail.ts';
import { AttemptRow } from '../../mail/nudges/attempt.ts';
import { MessageRow } from '../../mail/nudges/entity.ts';
import { sentNudges } from '../../mail/nudges/returns.ts';
import type { Em } from '../../platform/database/orm.ts';
import { dateTime, number, text, type ExportCell, type ExportColumn } from '@zest-bell/core/exports';
import { LOGGED_WORDS, type LogLine, type WithheldLine } from '@zest-bell/core/exchange';
import { LOG_TITLES, STATE_NAMES } from '@zest-bell/core/nudges';
import { WITHHELD_WORDS } from '@zest-bell/core/rounds';

export const LOG_COLUMNS: readonly ExportColumn[] = [
  ...[dateTime(LOG_TITLES.when), text(LOG_TITLES.studentId), text(LOG_TITLES.student), text(LOG_TITLES.rule)],
  ...[number(LOG_TITLES.step), text(LOG_TITLES.state), text(LOG_TITLES.why), text(LOG_TITLES.subject)],
  ...[number(LOG_TITLES.messages), text(LOG_TITLES.cameBack), dateTime(LOG_TITLES.round)],
  ...[text('Addresses'), dateTime('Student came back'), text('Text')],
];

/** What a line of the log has beside it. */
export interface LogDetails {
  readonly addresses: readonly string[];
  /** When the student came back after it (engine R13); null for who has not. */
  readonly cameBackAt: Instant | null;
  /** As it was handed over last; null for what was not. */
  readonly text: string | null;
}

export async function detailsOf(
  em: Em,
  live: LiveCourse,
  now: Instant,
  lines: readonly LogLine[],
): Promise<ReadonlyMap<number, LogDetails>> {
  const nudges = lines.map((l) => l.nudge);
  const order = { orderBy: { id: 'asc' }, disableIdentityMap: true } as const;
  const of = (nudge: number | null | undefined) => String(nudge);
  const messages = grouped(await em.find(MessageRow, { nudge: { $in: nudges } }, order), (m) => of(m.nudge));
  const attempts = grouped(await em.find(AttemptRow, { nudge: { $in: nudges } }, order), (a) => of(a.nudge));
  const back = new Map((await sentNudges(em, live, now, { nudges })).map((n) => [n.nudge, n.returned?.at ?? null]));
  return new Map(
    nudges.map((nudge) => {
      const text = attempts.get(of(nudge))?.at(-1)?.body;
      return [
        nudge,
        {
          addresses: [...new Set((messages.get(of(nudge)) ?? []).map((m) => m.address))],
          cameBackAt: back.get(nudge) ?? null,
          text: text === undefined ? null : withoutPauseLink(text),
        },
      ];
    }),
  );
}

const CAME: Readonly<Record<NonNullable<LogLine['answered']>, string>> = {
  reply: 'replied',
  autoReply: 'automatic reply',
  bounce: 'returned by the mail server',
};

export const logRow = (l: LogLine, { addresses, cameBackAt, text }: LogDetails): ExportCell[] => [
  ...[l.at, l.student, l.studentName, l.ruleName, l.step + 1, STATE_NAMES[l.state]],
  ...[l.reason === null ? null : LOGGED_WORDS[l.reason], l.subject, l.messages],
  ...[l.answered === null ? null : CAME[l.answered], l.roundAt],
  ...[addresses.join('; '), cameBackAt, text],
];

export const WITHHELD_COLUMNS: readonly ExportColumn[] = [
  ...[text('Student ID'), text('Student'), text('Rule'), text('Why')],
  ...[dateTime('First check'), dateTime('Last check'), number('Checks')],
];

export const withheldRow = (l: WithheldLine): ExportCell[] => [
  ...[l.student, l.studentName, l.ruleName, WITHHELD_WORDS[l.reason], l.firstRound, l.lastRound, l.rounds],
];

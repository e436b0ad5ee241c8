/** What the concepts share: wired once in the composition root and handed to each. */
import type { Clock } from '@zest-bell/core';
import type { Logger } from 'pino';
import type { LiveCourses } from '../activity/live.ts';
import type { MailTransport } from './mail.ts';
import type { Orm } from './orm.ts';

export interface Services {
  readonly orm: Orm;
  readonly clock: Clock;
  readonly live: LiveCourses;
  readonly mail: MailTransport;
  readonly logger: Logger;
  /** The address at which the student of a nudge pauses them; null while nobody outside could reach it. */
  readonly pauseLink: (nudge: number) => string | null;
  /** The server's own address for answers to a nudge; null while it receives no mail. */
  readonly replyAddress: (nudge: number) => string | null;
}

/** What the concepts share: wired once in the composition root and handed to each. */
import type { Clock } from '@zest-bell/core';
import type { Logger } from 'pino';
import type { LiveCourses } from './activity/live.ts';
import type { BroughtFiles } from './imports/broughtFiles.ts';
import type { FileReader } from './imports/fileReader.ts';
import type { LongWork } from './platform/longWork.ts';
import type { MailTransport } from './platform/mail.ts';
import type { Orm } from './platform/orm.ts';
import type { ReplayThread } from './replays/replayThread.ts';

export interface Services {
  readonly orm: Orm;
  /** The same database over a connection of its own: what is only read need not wait for a transaction. */
  readonly reading: Orm;
  readonly longWork: LongWork;
  readonly replays: ReplayThread;
  /** Reads files in a thread of their own. */
  readonly files: FileReader;
  /** Files that were brought and are not settled yet. */
  readonly brought: BroughtFiles;
  readonly clock: Clock;
  readonly live: LiveCourses;
  readonly mail: MailTransport;
  readonly logger: Logger;
  /** Below it, each course has a folder whose files are taken by themselves. */
  readonly folder: string;
  /** The address at which the student of a nudge pauses them; null while nobody outside could reach it. */
  readonly pauseLink: (nudge: number) => string | null;
  /** The server's own address for answers to a message, of a third party where one is named; null while it receives none. */
  readonly replyAddress: (tag: { readonly nudge: number; readonly message: number | null }) => string | null;
}

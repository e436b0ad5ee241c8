/** What the server, its thread that reads a file, and its thread that takes it say to each other. */
import type { MessagePort } from 'node:worker_threads';
import type { EventColumns } from '@zest-bell/core/imports';
import type { Instant } from '@zest-bell/core/time';
import type { DatabasePlace } from '../../platform/database/orm.ts';
import type { ErrorCode } from '../../platform/errors/errors.ts';
import type { LeaseName } from '../../platform/turns/holding.ts';
import type { FileReading } from '../imports/readMessages.ts';
import type { ImportToTake, ReadAgainst } from '../imports/takeIn.ts';

/** A file that was read, but for its events, which lie in a table of their own. */
export type ReadingWithoutEvents = Omit<FileReading, 'facts'> & {
  readonly facts: Omit<FileReading['facts'], 'events'>;
};

/** From the thread that reads: all of a file, once it has been read. */
export interface ToStage {
  readonly reading: ReadingWithoutEvents;
  readonly events: EventColumns;
}

export interface StagedToTake {
  readonly order: ImportToTake;
  /** What the file was read against. */
  readonly against: ReadAgainst;
  readonly now: Instant;
  readonly leases: readonly LeaseName[];
}

/** `stale`: the course has changed since the file was read. `change`: null where the file changed nothing. */
export type StagedTaken = { readonly change: number | null; readonly events: EventColumns } | 'stale';

/** From the server. */
export type StagingRequest =
  | { readonly as: 'open'; readonly place: DatabasePlace; readonly secret: string }
  /** What comes over `from` is put into a table, in a file of its own where the database is one. */
  | { readonly as: 'stage'; readonly id: number; readonly from: MessagePort; readonly file: string }
  | { readonly as: 'take'; readonly id: number; readonly take: StagedToTake }
  | { readonly as: 'leave'; readonly id: number };

export type StagingAnswer =
  /** Whether it has the database to itself from now on. */
  | { readonly id: number; readonly holds: boolean }
  | { readonly id: number; readonly taken: StagedTaken }
  | { readonly id: number; readonly error: ErrorCode }
  | { readonly id: number; readonly lost: string }
  /** A fault of the program. */
  | { readonly id: number; readonly fault: string };

import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { HeldReason } from '@zest-bell/core/nudges';
import { SENDING_KINDS } from '@zest-bell/core/exchange';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { holds, key, plain, words } from '../../platform/database/holds.ts';

/** What is put back when a person takes a sending back. */
export interface SendingUndo {
  /** The mailing that was made, and the rows of the sheet that were marked as written to. */
  readonly mailing?: number;
  readonly sheet?: number | null;
  /** Why each message waited in the Tray, by its id. */
  readonly held?: Readonly<Record<string, HeldReason>>;
  /** The reply that was answered. */
  readonly reply?: number;
  /** The round that was run by hand. */
  readonly round?: number;
}

/** Mail that a person set off by hand, and that waits a few seconds in which they can take it back. */
export const SendingRow = defineEntity({
  name: 'SendingRow',
  tableName: 'sending',
  properties: {
    id: p.integer().primary(),
    account: p.integer(),
    course: p.integer(),
    kind: oneOf(SENDING_KINDS),
    /** What is on its way, in words: "4 messages". */
    words: p.text(),
    /** When it leaves: by the machine's clock, or earlier when the course's own clock has gone past it. */
    until: instantColumn(),
    courseUntil: instantColumn(),
    takeBack: p.json<SendingUndo>(),
  },
  indexes: [{ properties: ['until'] }],
});
export type SendingRow = Readonly<InferEntity<typeof SendingRow>>;

export const sendingHolds = holds(SendingRow, {
  owner: ['course'],
  columns: {
    id: key,
    account: key,
    course: key,
    kind: plain,
    words: words,
    until: plain,
    courseUntil: plain,
    takeBack: key,
  },
  kept: 'goes',
});

/** Puts a mail that is no nudge into the outbox. */
import type { Instant } from '@zest-bell/core/time';
import type { RequiredEntityData } from '@mikro-orm/core';
import type { Tx } from '../../platform/database/orm.ts';
import { messageHolds } from '../nudges/entity.ts';
import { PlainMailRow, plainMailHolds } from './entity.ts';
import { insertRow } from '../../platform/database/writing.ts';

export interface PlainMail extends Omit<RequiredEntityData<PlainMailRow>, 'id'> {
  readonly course: number;
}

/** `sending` is what it waits with while a person can take it back. */
export async function queuePlainMail(
  em: Tx<'course'>,
  mail: PlainMail,
  to: { readonly name: string; readonly address: string; readonly sending?: number | null; readonly now: Instant },
): Promise<void> {
  const { name, address, sending, now } = to;
  const row = await insertRow(em, plainMailHolds, mail);
  await insertRow(em, messageHolds, {
    nudge: null,
    plainMail: row.id,
    course: mail.course,
    lead: false,
    reader: null,
    name,
    address,
    kind: mail.kind === 'answer' ? 'student' : 'instructor',
    state: 'queued',
    heldFor: null,
    trouble: null,
    sendAt: now,
    attempts: 0,
    variant: null,
    claimedBy: null,
    settledAt: null,
    sending: sending ?? null,
    bundle: null,
  });
}

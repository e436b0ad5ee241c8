/** Links that work once and end: of invitations and of forgotten passwords. They go by the real clock, and lead to the installation's own address. */
import { DAY, HOUR, type Instant } from '@zest-bell/core/time';
import { AppError } from '../platform/http/errors.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { LinkRow, linkHolds } from './entity.ts';
import { hashOf, newSecret } from './secrets.ts';
import { wallClock } from '../platform/process/clock.ts';
import { insertRow, updateRows } from '../platform/database/writing.ts';

export const WORKS_FOR = { invitation: 7 * DAY, password: HOUR } as const;
type LinkKind = keyof typeof WORKS_FOR;
type LinkPurpose = Pick<LinkRow, 'email'> & Partial<Pick<LinkRow, 'course' | 'role' | 'by'>>;

/** Its secret is behind the `#`, which no browser sends to any server and no log keeps. */
export const linkOf = (base: string, kind: LinkKind, secret: string): string => `${base}/${kind}#${secret}`;

/** Makes one, and gives its secret, which is not kept. */
export async function makeLink(tx: Tx, kind: LinkKind, what: LinkPurpose, now: Instant = wallClock()) {
  const secret = newSecret();
  const row = await insertRow(tx, linkHolds, {
    kind,
    ...what,
    hash: hashOf(secret),
    at: now,
    endsAt: now + WORKS_FOR[kind],
  });
  return { id: row.id, secret };
}

/** Throws `linkUnknown` for one that never was, `linkUsed` for one that works no more. */
export async function openLink(em: Em, kind: LinkKind, secret: string, now: Instant = wallClock()): Promise<LinkRow> {
  const row = await em.findOne(LinkRow, { kind, hash: hashOf(secret) });
  if (!row) throw new AppError('linkUnknown');
  if (row.usedAt != null || row.endsAt <= now) throw new AppError('linkUsed');
  return row;
}

/** Of two who use it at once only one does. Throws like `openLink`. */
export async function useLink(tx: Tx, kind: LinkKind, secret: string, now: Instant = wallClock()): Promise<LinkRow> {
  const row = await openLink(tx, kind, secret, now);
  if ((await updateRows(tx, linkHolds, { id: row.id, usedAt: null }, { usedAt: now })) === 0)
    throw new AppError('linkUsed');
  return row;
}

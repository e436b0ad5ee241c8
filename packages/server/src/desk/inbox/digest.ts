/** One mail a day or a week with what waits over all courses, for anyone who asked for it. Nothing waits: no mail. */
import { newMessageId } from '../../platform/mail/mail.ts';
import { DAY, HOUR, weekdayIndex, zoneOf, type Instant } from '@zest-bell/core/time';
import { inboxWords, isClear, type Digest, type InboxCourse } from '@zest-bell/core/exchange';
import { Account, mailOf, accountHolds } from '../../access/entity.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { inTurns } from '../../platform/turns/inTurns.ts';
import { queuePlainMail } from '../../mail/plainMail/queue.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { countFalling, readInbox } from './inbox.ts';
import { accountActor } from '@zest-bell/core/access';
import { updateRows } from '../../platform/database/writing.ts';
import { inAccount } from '../../access/holding.ts';
import { alsoCourse } from '../../course/lock.ts';

/** Local hour at which it is written, before the first class of a day. */
const HOUR_OF_DAY = 7;

/** The next morning after `now`, of any day or of a Monday; null when none is wanted. */
export function nextDigestAt(digest: Digest, now: Instant, timeZone: string): Instant | null {
  if (digest === 'off') return null;
  const zone = zoneOf(timeZone);
  const today = Math.floor(zone.toWall(now) / DAY);
  for (let day = today; ; day++) {
    const at = zone.toInstant(day * DAY + HOUR_OF_DAY * HOUR);
    if (at > now && (digest === 'daily' || weekdayIndex(day) === 0)) return at;
  }
}

/** When the next one is due for anybody after now; null for never. */
export async function nextDigest({ orm, clock }: Pick<IntakeServices, 'orm' | 'clock'>): Promise<Instant | null> {
  const [row] = await orm.em
    .fork()
    .find(Account, { digestAt: { $gt: clock.now() } }, { orderBy: { digestAt: 'asc' }, limit: 1 });
  return row?.digestAt ?? null;
}

/** Writes those that are due. One that fails is logged, tried again with the next one, and stops no other. */
export async function writeDigests(services: IntakeServices): Promise<void> {
  const { orm, clock, logger } = services;
  const due = { digest: { $ne: 'off' as const }, digestAt: { $lte: clock.now() } };
  for (const { id } of await orm.em.fork().find(Account, due, { fields: ['id'] })) {
    await write(services, id).catch((error: unknown) =>
      logger.error({ err: error, account: id }, 'a summary could not be written'),
    );
  }
}

async function write(services: IntakeServices, id: number): Promise<void> {
  // What takes long is read before anything is locked, and in turns with everything else.
  const read = await readInbox(services.orm.em.fork(), services, id);
  const courses = await inTurns(() => countFalling(read));
  await inAccount(services.orm, id, (tx, account) => store(tx, services, account, courses));
}

async function store(
  em: Tx<'account'>,
  services: IntakeServices,
  account: Account,
  courses: readonly InboxCourse[],
): Promise<void> {
  const now = services.clock.now();
  const { id, digest, digestAt } = account;
  if (digestAt == null || digestAt > now) return;
  // Only the process that moves the date on writes the mail. Another that has read the same date updates no row.
  const next = nextDigestAt(digest, now, courses[0]?.timeZone ?? 'UTC');
  if ((await updateRows(em, accountHolds, { id, digest, digestAt }, { digestAt: next })) === 0) return;
  const open = courses.filter((c) => !isClear(c));
  const [first] = open;
  if (!first) return;
  await alsoCourse(em, first.course, (tx, { sender }) =>
    queuePlainMail(
      tx,
      {
        kind: 'digest',
        course: first.course,
        reply: null,
        nudge: null,
        by: accountActor(account.id),
        at: now,
        subject: `Zest Bell: ${open.map((c) => c.code).join(', ')}`.slice(0, 200),
        text: digestText(open, digest),
        messageId: newMessageId(services.installationSender()),
        inReplyTo: null,
      },
      { name: account.name, address: mailOf(account) ?? sender.replyTo, now },
    ),
  );
}

/** What waits, course by course. No student is named: mail is read in many places. */
function digestText(courses: readonly InboxCourse[], digest: Digest): string {
  const parts = courses.map(
    (c) =>
      `${c.code} ${c.title}\n${inboxWords(c)
        .map((line) => `- ${line}`)
        .join('\n')}`,
  );
  const often = digest === 'weekly' ? 'every Monday' : 'every day';
  return [
    'This is waiting for you in Zest Bell:',
    ...parts,
    `You asked for this email ${often} on which something is waiting. You can change that on Today.`,
  ].join('\n\n');
}

/** Why no mail leaves, kept from the first hand-over that the server did not take until the first that it does. */
import type { Instant } from '@zest-bell/core/time';
import { troubleDelay, type MailTrouble } from '@zest-bell/core/nudges';
import type { MailTroubleAnswer } from '@zest-bell/core/exchange';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { MailTroubleRow, mailTroubleHolds } from './entity.ts';
import { insertRow, removeRows, updateRows, updateRow } from '../../platform/database/writing.ts';

/** The mail server as a whole, in place of a course. */
const SERVER = 0;

export interface MailTroubles {
  /** The whole server takes nothing until then; null while it does. */
  readonly server: MailTroubleRow | null;
  readonly courses: readonly MailTroubleRow[];
}

export async function mailTroubles(em: Em): Promise<MailTroubles> {
  const rows = await em.find(MailTroubleRow, {}, { disableIdentityMap: true });
  return { server: rows.find((r) => r.course === SERVER) ?? null, courses: rows.filter((r) => r.course !== SERVER) };
}

/** Keeps what the server said, and when it is asked again. Several failures of one try count once. Returns whether the trouble is new. */
export async function keepTrouble(
  em: Tx,
  course: number,
  { trouble, response }: { readonly trouble: MailTrouble; readonly response: string },
  now: Instant,
): Promise<boolean> {
  const scope = trouble === 'sender' ? course : SERVER;
  const known = await em.findOne(MailTroubleRow, { course: scope });
  if (known && known.nextTryAt > now) return false;
  const isNew = known?.trouble !== trouble;
  const tries = (known?.tries ?? 0) + 1;
  const nextTryAt = now + troubleDelay(tries);
  const said = response.replace(/\p{Cc}/gu, ' ').slice(0, 300);
  if (known) await updateRow(em, mailTroubleHolds, known, { trouble, response: said, tries, nextTryAt });
  else await insertRow(em, mailTroubleHolds, { course: scope, trouble, response: said, since: now, tries, nextTryAt });
  return isNew;
}

/** The server took mail of this course, or said something about one message: whatever was wrong is over. */
export async function endTrouble(em: Tx, courses: ReadonlySet<number>): Promise<void> {
  if (courses.size === 0) return;
  await removeRows(em, mailTroubleHolds, { course: { $in: [SERVER, ...courses] } });
}

/** The next try is now. */
export async function tryAgainNow(em: Tx, now: Instant): Promise<void> {
  await updateRows(em, mailTroubleHolds, {}, { nextTryAt: now });
}

/** What is in the way of one course's mail. */
export async function mailTroubleOf(em: Em, course: number): Promise<MailTroubleAnswer | null> {
  const { server, courses } = await mailTroubles(em);
  const row = server ?? courses.find((r) => r.course === course);
  if (!row) return null;
  return { trouble: row.trouble, response: row.response, since: row.since, nextTryAt: row.nextTryAt };
}

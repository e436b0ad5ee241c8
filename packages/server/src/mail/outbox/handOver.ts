/** Hands over mails that are no nudges, one by one: claimed before, tried again when the mail server fails for now. */
import type { Instant } from '@zest-bell/core/time';
import { retryDelay, troubleDelay, type DeliveryOutcome } from '@zest-bell/core/nudges';
import type { ForwardState } from '@zest-bell/core/exchange';
import { CourseRow } from '../../course/entity.ts';
import { stoppedCourses } from '../../course/waiting.ts';
import type { OutgoingMail } from '../../platform/mail/mail.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { Services } from '../../course/services.ts';
import { inTransaction } from '../../platform/database/transaction.ts';

/** A row that waits for its mail to leave. */
export interface Waiting {
  readonly id: number;
  readonly course: number;
  forward?: ForwardState | null | undefined;
  forwardAt?: Instant | null | undefined;
  attempts: number;
  claimedBy?: string | null | undefined;
}

/** Where such rows are, and the mail of one. */
export interface Queue<R extends Waiting> {
  count(em: Em, where: object): Promise<number>;
  first(em: Em, where: object): Promise<R | null>;
  mailOf(row: R, course: CourseRow, now: Instant): OutgoingMail;
  /** Which rows must not leave yet, apart from those that are not due. */
  waits?(em: Em, now: Instant): Promise<object>;
}

/**
 * Hands over what is due, for the process `worker`. Rows of a course whose mail is stopped wait, and so do all when the mail
 * server takes nothing.
 */
export async function handOver<R extends Waiting>(services: Services, worker: string, queue: Queue<R>): Promise<void> {
  const { orm, clock, mail } = services;
  for (;;) {
    const claimed = await claimOne(services, worker, queue);
    if (!claimed) return;
    const outcome = await mail.send(claimed.mail);
    await inTransaction(orm, async (em) => {
      const row = await queue.first(em, { id: claimed.id });
      // Another process may have taken this one for dead, and a person may have settled it.
      if (row?.forward !== 'handing' || row.claimedBy !== worker) return;
      Object.assign(row, { claimedBy: null, ...after(outcome, row.attempts, clock.now()) });
      await em.flush();
    });
    if (outcome.kind === 'unavailable') return;
  }
}

function after(outcome: DeliveryOutcome, attempts: number, now: Instant): Partial<Waiting> {
  switch (outcome.kind) {
    case 'sent':
      return { forward: 'sent' };
    case 'unknown':
      return { forward: 'uncertain' };
    case 'permanent':
      return { forward: 'failed' };
    case 'unavailable':
      return { forward: 'queued', attempts: attempts - 1, forwardAt: now + troubleDelay(1) };
    case 'transient': {
      const delay = retryDelay(attempts);
      return delay === null ? { forward: 'failed' } : { forward: 'queued', forwardAt: now + delay };
    }
  }
}

async function claimOne<R extends Waiting>(
  { orm, clock }: Services,
  worker: string,
  queue: Queue<R>,
): Promise<{ id: number; mail: OutgoingMail } | null> {
  const free = queue.waits ? await queue.waits(orm.em.fork(), clock.now()) : {};
  const due = { forward: 'queued', forwardAt: { $lte: clock.now() }, ...free };
  // Most of the time there is none, and nothing needs to be locked to know it.
  if ((await queue.count(orm.em.fork(), due)) === 0) return null;
  return inTransaction(orm, async (em) => {
    const row = await queue.first(em, { ...due, course: { $nin: await stoppedCourses(em) } });
    if (!row) return null;
    Object.assign(row, { forward: 'handing', claimedBy: worker, attempts: row.attempts + 1 });
    await em.flush();
    const course = await em.findOneOrFail(CourseRow, { id: row.course });
    return { id: row.id, mail: queue.mailOf(row, course, clock.now()) };
  });
}

/** What a dead process was handing over may have left or not, like any other mail. */
export const isHandedByDead = (dead: readonly string[]) => ({
  forward: 'handing' as const,
  claimedBy: { $in: [...dead] },
});
export const UNCERTAIN = { forward: 'uncertain' as const, claimedBy: null };

/** The inbox over all courses, what is done about a reply, and hints for the week. */
import { hintsFor, type Hint } from '@zest-bell/core/lookout';
import type { InboxAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { Account, accountHolds } from '../../access/entity.ts';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import type { MailHandOver } from '../../mail/outbox/handsOver.ts';
import { rowsOf } from '../../platform/database/query.ts';
import { ReplyRow } from '../../mail/replies/entity.ts';
import { answerReply, settleReply } from '../../mail/replies/settle.ts';
import { beginSending, leave, sendingAnswer } from '../../mail/sendings/sendings.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { nextDigestAt } from './digest.ts';
import { countFalling, coursesOf, OPEN_REPLY, openReplies, readInbox } from './inbox.ts';
import { updateRows } from '../../platform/database/writing.ts';
import { inAccount } from '../../access/holding.ts';
import { inCourse } from '../../course/lock.ts';

/** What belongs to a person and not to one course. */
export function inboxRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, longWork, clock } = services;

  door.on(contract.desk.inbox, async ({ account, res }) => {
    const em = reading.em.fork();
    const id = account;
    const read = await readInbox(em, services, id);
    const courses = await longWork.run(id, res, () => countFalling(read));
    const { digest } = await em.findOneOrFail(Account, { id });
    return { courses, replies: await openReplies(em, read, account), digest } satisfies InboxAnswer;
  });

  door.on(contract.access.digest, async ({ body: { digest }, account }) => {
    const id = account;
    const [first] = await coursesOf(reading.em.fork(), id);
    const zone = first === undefined ? 'UTC' : (await services.live.get(reading.em.fork(), first)).course.timeZone;
    const digestAt = nextDigestAt(digest, clock.now(), zone);
    await inAccount(orm, id, (em) => updateRows(em, accountHolds, { id }, { digest, digestAt }));
  });
}

export function replyRoutes(door: Door, services: IntakeServices, dispatcher: MailHandOver): void {
  const { orm, reading, live, clock } = services;

  door.on(contract.mail.answerReply, async ({ course, body: { text }, path, account, actor: by }) => {
    const [reply, now] = [idOf(path.reply), clock.now()];
    const began = await inCourse(orm, course, async (em) => {
      const sending = await beginSending(em, {
        account,
        course,
        kind: 'answer',
        words: 'your answer',
        now,
        takeBack: { reply },
      });
      await answerReply(em, { course, reply, text, now, by, sending: sending?.id ?? null });
      return sending;
    });
    await leave(services, dispatcher, began);
    return { sending: began && sendingAnswer(began) };
  });

  door.on(contract.mail.settleReply, async ({ course, body: { settled }, path, actor: by }) => {
    await inCourse(orm, course, async (em) => {
      await settleReply(em, { course, reply: idOf(path.reply), by, now: clock.now() }, settled);
    });
  });

  door.on(contract.desk.hints, async ({ course: id }) => {
    const em = reading.em.fork();
    const { facts } = await live.get(em, id);
    const sent = await rowsOf<{ student: string; at: number }>(
      em,
      em
        .getKnex()('nudge')
        .where({ course: id, to_student: true })
        .whereIn('state', ['sent', 'uncertain'])
        .groupBy('student')
        .select('student')
        .max({ at: 'round_at' }),
    );
    const waiting = await em.find(
      ReplyRow,
      { course: id, ...OPEN_REPLY, student: { $ne: null } },
      { fields: ['student'] },
    );
    const known = {
      lastSent: new Map(sent.map((s) => [s.student, Number(s.at)])),
      waiting: new Set(waiting.map((r) => r.student!)),
    };
    return hintsFor(facts, known, clock.now()) satisfies Hint[];
  });
}

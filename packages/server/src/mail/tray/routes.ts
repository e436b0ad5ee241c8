/** Deciding on nudges that wait: send, another text, dismiss with a reason and take that back, later; one or many at once. */
import { inCourse } from '../../course/lock.ts';
import { plural } from '@zest-bell/core/time';
import { nameIn } from '@zest-bell/core/course';
import { compileWording, saysNothing } from '@zest-bell/core/wording';
import type { TrayDecided } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import { approve, dismiss, restore } from '../outbox/approval.ts';
import { MessageRow, NudgeRow, nudgeHolds } from '../nudges/entity.ts';
import type { MailHandOver } from '../outbox/handsOver.ts';
import { inVoiceOf } from '../../course/activity/live.ts';
import { writersOf } from '../byHand/writers.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { SendingRow } from '../sendings/entity.ts';
import { beginSending, holdMessages, leave, sendingAnswer } from '../sendings/sendings.ts';
import type { CourseServices } from '../../course/services.ts';
import { WordingRow } from '../../wording/entity.ts';
import { trayLines } from './lines.ts';
import { updateRow } from '../../platform/database/writing.ts';

const BY_HAND = {
  path: 'wording',
  code: 'byHand',
  message: 'This message was written by hand. Change its text instead',
};

const NOTHING = {
  path: 'text',
  code: 'nothingWritten',
  message: 'You have not written anything yet. Type your message',
};

export function trayRoutes(door: Door, services: CourseServices, dispatcher: MailHandOver): void {
  const { orm, reading, live, clock } = services;

  door.on(contract.mail.tray, async ({ course: id }) => {
    const em = reading.em.fork();
    return await trayLines(em, await live.get(em, id), clock.now());
  });

  door.on(contract.mail.decideTray, async ({ course: id, body: order, account, actor: by }) => {
    const now = clock.now();
    const began = await inCourse(orm, id, async (em): Promise<SendingRow | null> => {
      const nudges = await em.find(NudgeRow, { course: id, id: { $in: order.nudges } });
      if (nudges.length < new Set(order.nudges).size) throw new AppError('notFound');
      if (order.as === 'later') {
        for (const n of nudges) await updateRow(em, nudgeHolds, n, { laterUntil: order.until });
        return null;
      }
      if (order.as === 'restore') {
        const dismissed = { course: id, nudge: { $in: order.nudges }, state: 'dismissed' as const };
        await restore(em, await em.find(MessageRow, dismissed, { disableIdentityMap: true }), now);
        for (const n of nudges) await updateRow(em, nudgeHolds, n, { decidedBy: null, dismissedFor: null });
        return null;
      }
      const messages = await em.find(MessageRow, { course: id, nudge: { $in: order.nudges }, state: 'held' });
      if (messages.length === 0) throw new AppError('notHeld');
      const { row } = await live.get(em, id);
      const held = Object.fromEntries(messages.map((m) => [m.id, m.heldFor ?? 'step']));
      if (order.as === 'send') await approve(em, messages, row.sender, now);
      else await dismiss(em, messages, now);
      for (const n of nudges)
        await updateRow(em, nudgeHolds, n, {
          decidedBy: by,
          ...(order.as === 'dismiss' ? { dismissedFor: order.reason } : {}),
        });
      if (order.as !== 'send') return null;
      const sending = await beginSending(em, {
        account,
        course: id,
        kind: 'tray',
        words: plural(nudges.length, 'nudge'),
        now,
        takeBack: { held },
      });
      await holdMessages(em, sending, { id: messages.map((m) => m.id) });
      return sending;
    });
    if (order.as !== 'send') return { done: order.nudges.length, canceled: [], sending: null } satisfies TrayDecided;
    await leave(services, dispatcher, began);
    const em = reading.em.fork();
    const { course } = await live.get(em, id);
    const canceled = await em.find(NudgeRow, { course: id, id: { $in: order.nudges }, state: 'withdrawn' });
    return {
      done: order.nudges.length - canceled.length,
      canceled: canceled.map((n) => {
        return { name: nameIn(course, n.student), reason: n.reason ?? 'noLongerTrue' };
      }),
      sending: began && sendingAnswer(began),
    } satisfies TrayDecided;
  });

  /** A text for this one alone, or another wording. */
  door.on(contract.mail.trayText, async ({ course: id, body: { text, wording }, path }) => {
    await inCourse(orm, id, async (em) => {
      const nudge = await em.findOne(NudgeRow, { course: id, id: idOf(path.nudge) });
      if (!nudge) throw new AppError('notFound');
      if ((await em.count(MessageRow, { nudge: nudge.id, state: 'held' })) === 0) throw new AppError('notHeld');
      // A message by hand has a text of its own, which no wording of the library takes the place of.
      if (wording !== undefined && wording !== nudge.wording) {
        if (nudge.rule == null) throw new AppError('invalidInput', [BY_HAND]);
        if ((await em.count(WordingRow, { course: id, key: wording })) === 0) throw new AppError('notFound');
        await updateRow(em, nudgeHolds, nudge, { wording });
      }
      if (text) {
        const compiled = compileWording({ id: 'one', name: 'one', purpose: 'support', ...text });
        if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
        const voiced = inVoiceOf(await live.get(em, id), (await writersOf(em, [nudge])).get(nudge.id));
        if (saysNothing(text.text, voiced.sender.signature)) throw new AppError('nothingWritten', [NOTHING]);
      }
      await updateRow(em, nudgeHolds, nudge, { edited: text });
    });
  });
}

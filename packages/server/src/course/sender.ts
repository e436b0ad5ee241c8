/** The voice of a course, and whether its mail server accepts it. */
import { inCourse } from './lock.ts';
import { contract } from '@zest-bell/core/contract';
import { domainsOf, mailFrom, type SenderSettings } from '@zest-bell/core/course';
import { isInside } from '@zest-bell/core/rounds';
import type { MailTestAnswer } from '@zest-bell/core/exchange';
import { Account, mailOf } from '../access/entity.ts';
import type { Door } from '../access/door.ts';
import { AppError } from '../platform/errors/errors.ts';
import { newMessageId, type OutgoingMail } from '../platform/mail/mail.ts';
import type { Em } from '../platform/database/orm.ts';
import type { CourseServices } from './services.ts';
import { bumpVersions } from './versions.ts';
import { mustBeProven } from './senderProof.ts';
import { voiceIn } from './voice.ts';
import { CourseRow, OwnSenderRow, ownSenderHolds, courseHolds } from './entity.ts';
import { insertRow, removeRows, updateRows, updateRow } from '../platform/database/writing.ts';

export function senderRoutes(door: Door, services: CourseServices): void {
  const { orm, mail, replyAddress, fixed } = services;
  door.on(contract.course.sender, async ({ course: id, account, body: { sender, version } }) => {
    if (sender.answers === 'server' && replyAddress({ nudge: 0, message: null }) === null) {
      throw new AppError('invalidInput', [
        {
          path: 'sender.answers',
          code: 'noReceiver',
          message: 'This server does not receive replies yet (ZEST_REPLY_DOMAIN is not set)',
        },
      ]);
    }
    await inCourse(orm, id, async (em, row) => {
      if (row.settingsVersion !== version) throw new AppError('changedMeanwhile');
      await mustBeProven(em, fixed, { course: id, account, sender, before: row.sender });
      const isSame = row.sender.address === sender.address && row.sender.replyTo === sender.replyTo;
      await updateRow(em, courseHolds, row, {
        sender,
        senderConfirmed: true,
        senderBy: isSame ? row.senderBy : account,
      });
      await bumpVersions(em, id, { settings: true });
    });
  });

  door.on(contract.course.confirmDays, async ({ course: id }) => {
    await inCourse(orm, id, async (em, row) => {
      await updateRow(em, courseHolds, row, { daysConfirmed: true });
      await bumpVersions(em, id, { settings: true });
    });
  });

  door.on(contract.course.ownSender, async ({ course: id, account, body: { sender } }) => {
    await inCourse(orm, id, async (em, row) => {
      const domains = domainsOf(row.sender);
      // In a course's name nobody writes from outside, and no student's reply leaves.
      const outside = (['address', 'replyTo'] as const).filter(
        (key) => sender && sender[key] !== '' && !isInside(sender[key], domains),
      );
      if (outside.length > 0)
        throw new AppError(
          'invalidInput',
          outside.map((key) => ({
            path: `sender.${key}`,
            code: 'outsideAddress',
            message: `Type an address at ${domains.join(' or ')}`,
          })),
        );
      const before = await em.findOne(OwnSenderRow, { course: id, account }, { disableIdentityMap: true });
      if (sender) await mustBeProven(em, fixed, { course: id, account, sender, before: before?.sender });
      const isSame = before?.sender.address === sender?.address && before?.sender.replyTo === sender?.replyTo;
      await removeRows(em, ownSenderHolds, { course: id, account });
      const isChecked = !isSame || (before?.isChecked ?? true);
      if (sender) await insertRow(em, ownSenderHolds, { course: id, account, sender, isChecked });
      await bumpVersions(em, id);
    });
  });

  /** One message to the person who asks, to hear what the mail server says. */
  door.on(contract.course.testMail, async ({ course: id, account }) => {
    const em = orm.em.fork();
    const { sender } = await em.findOneOrFail(CourseRow, { id });
    const outcome = await sendTest(em, account, sender);
    // Anyone who sent a test has looked at the sender.
    if (outcome.kind === 'sent')
      await inCourse(orm, id, (e) => updateRows(e, courseHolds, { id }, { senderConfirmed: true }));
    return outcome;
  });

  door.on(contract.course.testOwnMail, async ({ course: id, account }) => {
    const em = orm.em.fork();
    return await sendTest(em, account, await voiceIn(em, id, account));
  });

  async function sendTest(em: Em, account: number, sender: SenderSettings): Promise<MailTestAnswer> {
    const text = `This is a test of the mail settings of your course.\n\nReplies to it would go to ${sender.replyTo}.`;
    return await mail.send(
      await testMail(
        em,
        account,
        sender,
        { subject: 'A test of your mail settings', text, html: `<p>${text.replace('\n\n', '</p><p>')}</p>` },
        services,
      ),
    );
  }
}

/** A message to the signed-in person alone: nobody else gets a test. */
export async function testMail(
  em: Em,
  account: number,
  sender: SenderSettings,
  words: { readonly subject: string; readonly text: string; readonly html: string },
  { clock, installationSender }: Pick<CourseServices, 'clock' | 'installationSender'>,
): Promise<OutgoingMail> {
  const from = mailFrom(sender, installationSender());
  const to = await em.findOneOrFail(Account, { id: account });
  return {
    ...words,
    from,
    replyTo: sender.replyTo,
    to: { name: to.name, address: mailOf(to) ?? sender.replyTo },
    messageId: newMessageId(from),
    date: new Date(clock.now()),
    inReplyTo: null,
    pauseLink: null,
    envelopeFrom: null,
  };
}

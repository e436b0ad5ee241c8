/** Whose voice a course speaks in, and whether its mail server takes what it says. */
import { Router } from 'express';
import { z } from 'zod';
import type { MailTestAnswer, SenderSettings } from '@zest-bell/core';
import { Account } from '../../accounts/entity.ts';
import { accountOf, courseOf } from '../../accounts/routes.ts';
import { AppError } from '../../platform/errors.ts';
import { parseInput } from '../../platform/http.ts';
import { newMessageId, type OutgoingMail } from '../../platform/mail.ts';
import type { Em } from '../../platform/orm.ts';
import type { Services } from '../../services.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { CourseRow } from '../../course/entity.ts';

const oneLine = (most: number, missing: string) =>
  z
    .string()
    .trim()
    .min(1, missing)
    .max(most)
    .refine((s) => !/[\r\n]/.test(s), 'One line');

const senderSchema = z.strictObject({
  name: oneLine(120, 'A sender needs a name'),
  address: z.email('Type an address such as name@college.example'),
  replyTo: z.email('Type an address such as name@college.example'),
  signature: z.string().trim().max(1000).default(''),
  officeHours: z.string().trim().max(300).default(''),
  bookingUrl: z
    .union([
      z.literal(''),
      z.url({ protocol: /^https?$/, error: 'Type a web address such as https://booking.college.example' }),
    ])
    .default(''),
  domains: z
    .array(
      z
        .string()
        .trim()
        .toLowerCase()
        .regex(/^[a-z0-9-]+(\.[a-z0-9-]+)+$/, 'Type a domain such as college.example'),
    )
    .max(20, 'At most twenty domains')
    .default([]),
  answers: z.enum(['own', 'server']).default('own'),
});
const changeSchema = z.strictObject({ sender: senderSchema, version: z.number().int() });

export function senderRoutes({ orm, reading, clock, mail, replyAddress }: Services): Router {
  const router = Router({ mergeParams: true });

  router.put('/sender', async (req, res) => {
    const id = await courseOf(reading, req);
    const { sender, version } = parseInput(changeSchema, req.body);
    if (sender.answers === 'server' && replyAddress({ nudge: 0, message: null }) === null) {
      throw new AppError('invalidInput', [
        {
          path: 'sender.answers',
          code: 'noReceiver',
          message: 'This server does not receive replies yet (ZEST_REPLY_DOMAIN is not set)',
        },
      ]);
    }
    await inTransaction(orm, async (em) => {
      const row = await em.findOneOrFail(CourseRow, { id });
      if (row.version !== version) throw new AppError('changedMeanwhile');
      Object.assign(row, { sender, senderConfirmed: true, version: row.version + 1 });
      await em.flush();
    });
    res.status(204).end();
  });

  /** One message to the person who asks, to hear what the mail server says. */
  router.post('/mail/test', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = orm.em.fork();
    const { sender } = await em.findOneOrFail(CourseRow, { id });
    const text = `This is a test of the mail settings of your course.\n\nReplies to it would go to ${sender.replyTo}.`;
    const outcome = await mail.send(
      await testMail(
        em,
        accountOf(req),
        sender,
        { subject: 'A test of your mail settings', text, html: `<p>${text.replace('\n\n', '</p><p>')}</p>` },
        clock.now(),
      ),
    );
    // Whoever sent a test has looked at the sender.
    if (outcome.kind === 'sent')
      await inTransaction(orm, (e) => e.nativeUpdate(CourseRow, { id }, { senderConfirmed: true }));
    res.json(outcome satisfies MailTestAnswer);
  });

  return router;
}

/** A message to the signed-in person alone: nobody else gets a test. */
export async function testMail(
  em: Em,
  account: number,
  sender: SenderSettings,
  words: { readonly subject: string; readonly text: string; readonly html: string },
  now: number,
): Promise<OutgoingMail> {
  const to = await em.findOneOrFail(Account, { id: account });
  return {
    ...words,
    from: { name: sender.name, address: sender.address },
    replyTo: sender.replyTo,
    to: { name: to.name, address: to.email },
    messageId: newMessageId(sender),
    date: new Date(now),
    inReplyTo: null,
    pauseLink: null,
    envelopeFrom: null,
  };
}

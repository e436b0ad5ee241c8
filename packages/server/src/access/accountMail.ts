/** Mail to people with accounts, from the installation itself: invitations, and links for a forgotten password. */
import { htmlOfPlain, newMessageId } from '../platform/mail/mail.ts';
import type { Services } from '../platform/services.ts';
import { Account } from './entity.ts';

export interface AccountMail {
  readonly to: { readonly name: string; readonly address: string };
  readonly subject: string;
  readonly text: string;
}

/** Whether the mail server took it. It comes from an administrator’s address, so that an answer finds a person. */
export async function sendAccountMail(
  { orm, mail, clock, logger }: Pick<Services, 'orm' | 'mail' | 'clock' | 'logger'>,
  { to, subject, text }: AccountMail,
): Promise<boolean> {
  const keeper = await orm.em.fork().findOne(Account, { isAdministrator: true }, { orderBy: { id: 'asc' } });
  const address = keeper?.email ?? to.address;
  const outcome = await mail.send({
    ...{ subject, text, html: htmlOfPlain(text), to, replyTo: address },
    from: { name: 'Zest Bell', address },
    messageId: newMessageId({ address }),
    date: new Date(clock.now()),
    ...{ inReplyTo: null, pauseLink: null, envelopeFrom: null },
  });
  if (outcome.kind !== 'sent') logger.warn({ kind: outcome.kind }, 'a mail to an account did not leave');
  return outcome.kind === 'sent';
}

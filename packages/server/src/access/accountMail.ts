/** Mail to people with accounts, from the installation itself: invitations, and links for a forgotten password. */
import { htmlOfPlain, newMessageId } from '../platform/mail/mail.ts';
import type { PlatformServices } from '../platform/services.ts';
import { Account, mailOf } from './entity.ts';

export interface AccountMail {
  readonly to: { readonly name: string; readonly address: string };
  readonly subject: string;
  readonly text: string;
}

export type SendsAccountMail = Pick<PlatformServices, 'orm' | 'mail' | 'clock' | 'logger' | 'installationSender'>;

/** Whether the mail server took it. It comes from the installation's own sender. */
export async function sendAccountMail(
  { mail, clock, logger, installationSender }: SendsAccountMail,
  { to, subject, text }: AccountMail,
): Promise<boolean> {
  const from = installationSender();
  const outcome = await mail.send({
    subject,
    text,
    html: htmlOfPlain(text),
    to,
    from,
    replyTo: from.address,
    messageId: newMessageId(from),
    date: new Date(clock.now()),
    inReplyTo: null,
    pauseLink: null,
    envelopeFrom: null,
  });
  if (outcome.kind !== 'sent') logger.warn({ kind: outcome.kind }, 'a mail to an account did not leave');
  return outcome.kind === 'sent';
}

const CHANGES = {
  password: 'The password of your account was changed. You are signed out everywhere else.',
  factorAdded: 'A second factor was added to your account.',
  factorRemoved: 'A second factor was taken from your account.',
  factorsReset:
    'An administrator took all second factors from your account. The next sign-in needs the password alone.',
  recovery: 'Your account has new recovery codes. The old ones no longer work.',
} as const;

/** Tells the owner of an account what of its keys was changed. Nobody waits for it. */
export function sendChangeNotice(services: SendsAccountMail, account: number, change: keyof typeof CHANGES): void {
  const tell = async () => {
    const row = await services.orm.em.fork().findOneOrFail(Account, { id: account });
    const { name } = row;
    const email = mailOf(row);
    if (email === null) return;
    await sendAccountMail(services, {
      to: { name, address: email },
      subject: 'Your Zest Bell account was changed',
      text: `${CHANGES[change]}\n\nIf it was not you, set a new password with “I forgot my password”, then tell the person who runs Zest Bell.`,
    });
  };
  void tell().catch((error: unknown) => services.logger.error({ err: error }, 'a change was not told to its owner'));
}

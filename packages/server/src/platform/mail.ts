/** The one door to the mail server: a finished message in, what the server answered out. Never throws. */
import { classify, type DeliveryOutcome } from '@zest-bell/core';
import nodemailer, { type TransportOptions } from 'nodemailer';

export interface OutgoingMail {
  readonly from: { readonly name: string; readonly address: string };
  readonly replyTo: string;
  readonly to: { readonly name: string; readonly address: string };
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  /** With its angle brackets. */
  readonly messageId: string;
  readonly date: Date;
}

export interface MailTransport {
  send(mail: OutgoingMail): Promise<DeliveryOutcome>;
  close(): void;
}

/** How many messages are on the line at once; also the most that a crash can leave uncertain. */
export const CONNECTIONS = 5;

export function smtpTransport(url: string): MailTransport {
  const transport = nodemailer.createTransport({
    url,
    pool: true,
    maxConnections: CONNECTIONS,
    connectionTimeout: 10_000,
    greetingTimeout: 10_000,
    socketTimeout: 30_000,
  } as TransportOptions);
  return {
    async send(mail) {
      try {
        const info = (await transport.sendMail({
          from: mail.from,
          replyTo: mail.replyTo,
          // One message a student: nobody ever stands beside another in To or CC.
          to: mail.to,
          subject: mail.subject,
          text: mail.text,
          html: mail.html,
          messageId: mail.messageId,
          date: mail.date,
          // RFC 3834 §5: tells vacation responders that no person typed this.
          headers: { 'Auto-Submitted': 'auto-generated' },
          disableFileAccess: true,
          disableUrlAccess: true,
        })) as { response?: string };
        return { kind: 'sent', response: info.response ?? '' };
      } catch (error) {
        return classify(error as Error & { responseCode?: number; response?: string; code?: string; command?: string });
      }
    },
    close: () => transport.close(),
  };
}

/** Stands in until a mail server is set: every message waits and says why. */
export const noTransport: MailTransport = {
  send: () =>
    Promise.resolve({ kind: 'transient', response: 'No mail server is set. Set ZEST_SMTP_URL and start again.' }),
  close: () => undefined,
};

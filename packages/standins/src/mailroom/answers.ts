/** What comes back from a mailbox: an answer, a vacation notice, or a mail server's bounce, each as a real mail. */
import nodemailer from 'nodemailer';
import type { Clock } from '@zest-bell/core/time';
import type { AnswerKind, Letter } from '@zest-bell/core/exchange';
import type { StoredLetter } from './letters.ts';

export interface AnswerToWrite {
  readonly kind: AnswerKind;
  readonly letter: StoredLetter | Letter;
  /** Who answers, as the roster knows them. */
  readonly name: string;
  readonly text: string;
  readonly clock: Clock;
  /** The same one twice is the same mail; made up when left out. */
  readonly messageId?: string;
  /** The port at which an address takes mail. */
  readonly portOf: (address: string) => number;
}

const headerOf = (letter: Letter | StoredLetter, name: string): string | undefined =>
  letter.headers.find((h) => h.name.toLowerCase() === name)?.value;

const addressIn = (text: string): string => /<([^>]+)>/.exec(text)?.[1] ?? text.trim();

export async function sendAnswer(order: AnswerToWrite): Promise<void> {
  const { letter, kind } = order;
  const answerTo = addressIn(headerOf(letter, 'reply-to') ?? letter.from);
  const returnPath = ('returnPath' in letter && letter.returnPath) || answerTo;
  const to = kind === 'answer' ? answerTo : returnPath;
  const messageId = headerOf(letter, 'message-id');
  const transport = nodemailer.createTransport({ host: '127.0.0.1', port: order.portOf(to), ignoreTLS: true });
  const thread = messageId === undefined ? {} : { inReplyTo: messageId, references: messageId };
  const own = { name: order.name, address: letter.to };
  const date = new Date(order.clock.now());
  const known = order.messageId === undefined ? {} : { messageId: order.messageId };
  const quoted = letter.text.split('\n').map((l) => `> ${l}`);
  try {
    if (kind === 'bounce') await transport.sendMail({ ...bounceOf(letter, to), date });
    else if (kind === 'outOfOffice') {
      await transport.sendMail({
        ...thread,
        ...known,
        date,
        from: own,
        to,
        subject: `Out of office: ${letter.subject}`,
        text: order.text,
        // RFC 3834 §5 and §3.3.
        headers: { 'Auto-Submitted': 'auto-replied' },
        envelope: { from: '', to },
      });
    } else {
      await transport.sendMail({
        ...thread,
        ...known,
        date,
        from: own,
        to,
        subject: /^re:/i.test(letter.subject) ? letter.subject : `Re: ${letter.subject}`,
        text: [order.text, '', `On ${date.toUTCString()} ${letter.from} wrote:`, ...quoted].join('\n'),
      });
    }
  } finally {
    transport.close();
  }
}

/** A delivery status notification (RFC 3464) as the college's mail server would send it. */
function bounceOf(letter: Letter | StoredLetter, to: string) {
  const boundary = 'zest-bell-report';
  const lines = [
    'From: Mail Delivery System <mailer-daemon@saltmarsh.example>',
    `To: ${to}`,
    `Subject: Undelivered: ${letter.subject.replace(/\s+/g, ' ')}`,
    `Message-ID: <${crypto.randomUUID()}@saltmarsh.example>`,
    'Auto-Submitted: auto-replied',
    'MIME-Version: 1.0',
    `Content-Type: multipart/report; report-type=delivery-status; boundary="${boundary}"`,
    '',
    `--${boundary}`,
    'Content-Type: text/plain; charset=utf-8',
    '',
    `Your message to ${letter.to} could not be delivered: there is no such mailbox.`,
    '',
    `--${boundary}`,
    'Content-Type: message/delivery-status',
    '',
    'Reporting-MTA: dns; mailroom.saltmarsh.example',
    '',
    `Final-Recipient: rfc822; ${letter.to}`,
    'Action: failed',
    'Status: 5.1.1',
    '',
    `--${boundary}--`,
    '',
  ];
  return { raw: lines.join('\r\n'), envelope: { from: '', to } };
}

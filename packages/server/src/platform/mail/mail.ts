/** The one door to the mail server: a finished message in, what the server answered out. Never throws. */
import type { DeliveryOutcome } from '@zest-bell/core/nudges';
import { escapeHtml } from '@zest-bell/core/wording';
import nodemailer, { type SendMailOptions } from 'nodemailer';
import { SmtpLine, type Envelope, type BeforeText } from './smtpLine.ts';
import { elsewhere } from '../turns/requestQueue.ts';

/** A file that goes with a mail. */
export interface MailFile {
  readonly name: string;
  readonly type: string;
  readonly bytes: Buffer;
  /** The name under which the HTML shows it; null for an attachment. */
  readonly shownAs: string | null;
}

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
  /** The message of the same spell that this one follows, with its angle brackets. */
  readonly inReplyTo: string | null;
  /** Where the reader pauses such messages; null for a third party's copy. */
  readonly pauseLink: string | null;
  readonly files?: readonly MailFile[];
  /** Where bounces go, when that is not the sender's own address. */
  readonly envelopeFrom: string | null;
}

/** A new Message-ID of the sender's own domain, with its angle brackets (RFC 5322 §3.6.4). */
export const newMessageId = (sender: { readonly address: string }): string =>
  `<${crypto.randomUUID()}@${sender.address.split('@')[1] ?? 'zest-bell'}>`;

/** Plain text as HTML: a paragraph for each stretch between empty lines. A line that is an address and nothing else is a link. */
export const htmlOfPlain = (text: string): string =>
  text
    .split(/\n{2,}/)
    .map((paragraph) => `<p>${paragraph.split('\n').map(lineOfPlain).join('<br>')}</p>`)
    .join('\n');

function lineOfPlain(line: string): string {
  const safe = escapeHtml(line);
  return /^https?:\/\/\S+$/.test(line) ? `<a href="${safe}">${safe}</a>` : safe;
}

export interface MailTransport {
  send(mail: OutgoingMail): Promise<DeliveryOutcome>;
  /** Null when it may not begin: the mail server then has nothing of it. */
  handOver(mail: OutgoingMail, mayBegin: BeforeText): Promise<DeliveryOutcome | null>;
  /** Whether the mail server answers anything, on a line that carries no message. */
  answers(): Promise<boolean>;
  close(): void;
}

/** How many messages are on the line at once. */
export const CONNECTIONS = 5;

/** A private key in PEM, and where its public half is found (RFC 6376 §3.6.2.1). */
export interface DkimKey {
  readonly domain: string;
  readonly selector: string;
  readonly key: string;
}

/** RFC 6376 §5.4, and with them what RFC 8058 §4 wants signed: both headers of the pause link. */
const SIGNED_HEADERS = [
  'From',
  'Reply-To',
  'Subject',
  'Date',
  'Message-ID',
  'To',
  'In-Reply-To',
  'References',
  'MIME-Version',
  'Content-Type',
  'Auto-Submitted',
  'List-Unsubscribe',
  'List-Unsubscribe-Post',
].join(':');

/** A mail as bytes, as it leaves but for its signature (RFC 5322). */
export async function rawMail(mail: OutgoingMail): Promise<Buffer> {
  const composer = nodemailer.createTransport({ streamTransport: true, buffer: true, newline: 'windows' });
  return envelopeOf(await composer.sendMail(optionsOf(mail))).raw;
}

export interface SmtpClientOptions {
  readonly signing?: DkimKey | null;
  /** The longest that one message may take, in ms. */
  readonly longest?: number;
}

export function smtpTransport(url: string, { signing = null, longest }: SmtpClientOptions = {}): MailTransport {
  const composer = nodemailer.createTransport({
    streamTransport: true,
    buffer: true,
    newline: 'windows',
    ...(signing === null
      ? {}
      : {
          dkim: {
            domainName: signing.domain,
            keySelector: signing.selector,
            privateKey: signing.key,
            headerFieldNames: SIGNED_HEADERS,
          },
        }),
  });
  const lines = Array.from({ length: CONNECTIONS }, () => new SmtpLine(url, longest));
  const free = [...lines];
  const waiting: ((line: SmtpLine) => void)[] = [];
  const take = () => free.pop() ?? new Promise<SmtpLine>((given) => waiting.push(given));
  const giveBack = (line: SmtpLine) => {
    const next = waiting.shift();
    if (next) next(line);
    else free.push(line);
  };
  const handOver = async <No extends null>(
    mail: OutgoingMail,
    overLine: (line: SmtpLine, composed: Envelope) => Promise<DeliveryOutcome | No>,
  ): Promise<DeliveryOutcome | No> => {
    let composed: Envelope;
    try {
      composed = envelopeOf(await composer.sendMail(optionsOf(mail)));
    } catch (error) {
      return { kind: 'permanent', response: error instanceof Error ? error.message : 'It cannot be composed' };
    }
    const line = await take();
    try {
      return await overLine(line, composed);
    } finally {
      giveBack(line);
    }
  };
  return {
    send: (mail) => elsewhere(() => handOver<never>(mail, (line, composed) => line.send(composed))),
    handOver: (mail, mayBegin) => handOver<null>(mail, (line, composed) => line.handOver(composed, mayBegin)),
    answers: () => new SmtpLine(url, longest).answers(),
    close: () => lines.forEach((line) => line.close()),
  };
}

function envelopeOf(made: { message: unknown; envelope: { from: string | false; to: string[] } }): Envelope {
  const [to] = made.envelope.to;
  if (!to) throw new Error('The address of this message cannot be written to');
  return { from: made.envelope.from || '', to, raw: made.message as Buffer };
}

const optionsOf = (mail: OutgoingMail): SendMailOptions => ({
  from: mail.from,
  replyTo: mail.replyTo,
  // One message a student: nobody ever is beside another in To or CC.
  to: mail.to,
  subject: mail.subject,
  text: mail.text,
  html: mail.html,
  messageId: mail.messageId,
  ...(mail.envelopeFrom === null ? {} : { envelope: { from: mail.envelopeFrom, to: mail.to.address } }),
  date: mail.date,
  ...(mail.inReplyTo === null ? {} : { inReplyTo: mail.inReplyTo, references: mail.inReplyTo }),
  headers: headersOf(mail),
  ...(mail.files && mail.files.length > 0 ? { attachments: mail.files.map(attachmentOf) } : {}),
  disableFileAccess: true,
  disableUrlAccess: true,
});

const attachmentOf = ({ name, type, bytes, shownAs }: MailFile) => ({
  filename: name,
  contentType: type,
  content: bytes,
  ...(shownAs === null ? {} : { cid: shownAs, contentDisposition: 'inline' as const }),
});

function headersOf({ pauseLink }: OutgoingMail): Record<string, string> {
  return {
    // RFC 3834 §5: tells vacation responders that no person typed this.
    'Auto-Submitted': 'auto-generated',
    // RFC 2369 §3.2. One click (RFC 8058 §3.1) is for HTTPS alone.
    ...(pauseLink === null ? {} : { 'List-Unsubscribe': `<${pauseLink}>` }),
    ...(pauseLink?.startsWith('https:') ? { 'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click' } : {}),
  };
}

const NOT_SET: DeliveryOutcome = { kind: 'unavailable', trouble: 'notSet', response: 'No mail server is set.' };

/** Used until a mail server is set: no message leaves, and every one waits. */
export const noTransport: MailTransport = {
  send: () => Promise.resolve(NOT_SET),
  handOver: () => Promise.resolve(NOT_SET),
  answers: () => Promise.resolve(false),
  close: () => undefined,
};

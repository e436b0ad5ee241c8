/** A real SMTP server on loopback: what it accepts lands in a mailbox and leaves no machine. */
import type { AddressInfo } from 'node:net';
import type { AddressObject } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import type { Clock } from '@zest-bell/core/time';
import type { Letters, StoredLetter } from './letters.ts';
import type { Switches } from './switches.ts';

/** How long a slow server takes over one letter, in ms. */
const SLOW = 2500;

export interface SmtpServerOptions {
  /** 0 takes any free port. */
  readonly port: number;
  /** A pause before each letter is accepted, in ms, to show a slow server. */
  readonly delay?: number;
}

export interface Mailroom {
  readonly port: number;
  close(): Promise<void>;
}

const refusal = (responseCode: number, text: string) => Object.assign(new Error(text), { responseCode });

export function openMailroom(
  letters: Letters,
  clock: Clock,
  options: SmtpServerOptions,
  switches?: Switches,
): Promise<Mailroom> {
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    disableReverseLookup: true,
    name: 'mailroom.saltmarsh.example',
    size: 25 * 1024 * 1024,
    logger: false,
    onConnect(_session, done) {
      done(switches?.mode === 'off' ? refusal(421, '4.3.2 The mail server is switched off') : undefined);
    },
    onMailFrom(_address, _session, done) {
      done(switches?.mode === 'busy' ? refusal(451, '4.3.2 Too busy, try again later') : undefined);
    },
    onRcptTo(address, _session, done) {
      done(switches?.refuses(address.address) ? refusal(550, '5.1.1 That mailbox takes no mail') : undefined);
    },
    onData(stream, session, done) {
      const to = session.envelope.rcptTo.map((r) => r.address);
      const { mailFrom } = session.envelope;
      read(stream, to, mailFrom ? mailFrom.address : '', clock)
        .then(async (arrived) => {
          const delay = (options.delay ?? 0) + (switches?.mode === 'slow' ? SLOW : 0);
          if (delay > 0) await new Promise((resolve) => setTimeout(resolve, delay));
          for (const letter of arrived) letters.add(letter);
          done(null, `2.0.0 accepted as ${arrived[0]?.id ?? 'nothing'}`);
        })
        .catch((error: unknown) => done(error instanceof Error ? error : new Error('unreadable')));
    },
  });
  return new Promise((resolve, reject) => {
    server.on('error', reject);
    server.listen(options.port, '127.0.0.1', () => {
      const { port } = server.server.address() as AddressInfo;
      resolve({ port, close: () => new Promise((closed) => server.close(() => closed())) });
    });
  });
}

async function read(
  stream: NodeJS.ReadableStream,
  to: readonly string[],
  returnPath: string,
  clock: Clock,
): Promise<StoredLetter[]> {
  const { simpleParser } = await import('mailparser');
  const mail = await simpleParser(stream as Parameters<typeof simpleParser>[0]);
  const text = mail.text ?? '';
  const headers = mail.headerLines.map(({ key, line }) => ({
    name: line.slice(0, key.length),
    value: line.slice(key.length + 1).trim(),
  }));
  // Pictures that the HTML shows are in it already.
  const files = mail.attachments
    .filter((a) => !a.related)
    .map((a) => ({ name: a.filename ?? 'unnamed', type: a.contentType, base64: a.content.toString('base64') }));
  return to.map((address) => ({
    id: crypto.randomUUID(),
    at: clock.now(),
    from: oneAddress(mail.from),
    to: address,
    returnPath,
    subject: mail.subject ?? '',
    firstLine: text.replace(/\s+/g, ' ').trim().slice(0, 140),
    html: mail.html || '',
    text,
    headers,
    ...(files.length > 0 ? { files } : {}),
  }));
}

function oneAddress(header: AddressObject | undefined): string {
  const first = header?.value[0];
  return first?.name ? `${first.name} <${first.address ?? ''}>` : (first?.address ?? '');
}

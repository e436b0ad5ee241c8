/** A real SMTP server on loopback that takes mail, refuses it, or drops the line, as a test wants. */
import type { AddressInfo } from 'node:net';
import { buffer } from 'node:stream/consumers';
import { simpleParser, type ParsedMail } from 'mailparser';
import { SMTPServer } from 'smtp-server';

export type Answer = 'accept' | 'dropAfterData' | { readonly code: number; readonly at: 'rcpt' | 'data' };

export interface TestSmtp {
  readonly url: string;
  readonly mails: readonly { readonly to: readonly string[]; readonly mail: ParsedMail; readonly source: Buffer }[];
  /** What the server does with the next messages. */
  answer: Answer;
  close(): Promise<void>;
}

const refusal = (code: number) =>
  Object.assign(new Error(code < 500 ? 'try later' : 'no such mailbox'), { responseCode: code });

export function openSmtp(): Promise<TestSmtp> {
  const mails: { to: readonly string[]; mail: ParsedMail; source: Buffer }[] = [];
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    logger: false,
    onRcptTo(_address, _session, done) {
      const { answer } = state;
      done(typeof answer === 'object' && answer.at === 'rcpt' ? refusal(answer.code) : undefined);
    },
    onData(stream, session, done) {
      const parsed = buffer(stream).then(async (source) => {
        const mail = await simpleParser(source);
        const { answer } = state;
        if (answer === 'dropAfterData') {
          for (const connection of server.connections) {
            (connection as unknown as { _socket: { destroy(): void } })._socket.destroy();
          }
          return;
        }
        if (typeof answer === 'object') return done(refusal(answer.code));
        mails.push({ to: session.envelope.rcptTo.map((r) => r.address), mail, source });
        done(null, '2.0.0 taken');
      });
      // The sender may be killed in the middle of a message.
      parsed.catch(() => undefined);
    },
  });
  server.on('error', () => undefined);
  const state: TestSmtp = {
    url: '',
    mails,
    answer: 'accept',
    close: () => new Promise((closed) => server.close(() => closed())),
  };
  return new Promise((resolve) => {
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.server.address() as AddressInfo;
      resolve(Object.assign(state, { url: `smtp://127.0.0.1:${port}` }));
    });
  });
}

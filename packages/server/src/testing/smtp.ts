/** A real SMTP server on loopback that takes mail, refuses it, or misbehaves as a test wants. */
import type { AddressInfo, Socket } from 'node:net';
import { createServer } from 'node:net';
import { buffer } from 'node:stream/consumers';
import { simpleParser, type ParsedMail } from 'mailparser';
import { SMTPServer } from 'smtp-server';

export type SmtpAnswer =
  | 'accept'
  | 'dropAfterData'
  | { readonly code: number; readonly at: 'mailFrom' | 'rcpt' | 'data' }
  /** No SMTP code, at that point of the talk. */
  | { readonly garbage: 'greeting' | 'rcpt' | 'data' };

export interface TestSmtp {
  readonly url: string;
  readonly mails: readonly { readonly to: readonly string[]; readonly mail: ParsedMail; readonly source: Buffer }[];
  /** What the server does with the next messages. */
  answer: SmtpAnswer;
  /** Senders refused at MAIL FROM. */
  refusedSender: string | null;
  /** To whom mail never gets an answer. */
  slowFor: string | null;
  /** Takes no more than so many messages: those who bring more wait for an answer until it is raised. */
  most: number;
  close(): Promise<void>;
}

const refusal = (code: number) =>
  Object.assign(new Error(code < 500 ? 'try later' : 'no such mailbox'), { responseCode: code });

export function openSmtp(port = 0): Promise<TestSmtp> {
  const mails: { to: readonly string[]; mail: ParsedMail; source: Buffer }[] = [];
  let most = Infinity;
  const waiting: (() => void)[] = [];
  const refused = (at: 'mailFrom' | 'rcpt' | 'data') => {
    const { answer } = state;
    return typeof answer === 'object' && 'code' in answer && answer.at === at ? refusal(answer.code) : undefined;
  };
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    logger: false,
    onMailFrom({ address }, _session, done) {
      done(address === state.refusedSender ? refusal(550) : refused('mailFrom'));
    },
    onRcptTo({ address }, _session, done) {
      if (address === state.slowFor) return;
      done(refused('rcpt'));
    },
    onData(stream, session, done) {
      const parsed = buffer(stream).then(async (source) => {
        const mail = await simpleParser(source);
        if (state.answer === 'dropAfterData') {
          for (const connection of server.connections) {
            (connection as unknown as { _socket: { destroy(): void } })._socket.destroy();
          }
          return;
        }
        const no = refused('data');
        if (no) return done(no);
        const take = () => {
          mails.push({ to: session.envelope.rcptTo.map((r) => r.address), mail, source });
          done(null, '2.0.0 taken');
        };
        if (mails.length < most) take();
        else waiting.push(take);
      });
      // The sender may be killed in the middle of a message.
      parsed.catch(() => undefined);
    },
  });
  server.on('error', () => undefined);
  const open = new Set<Socket>();
  // In front of the real one, so that a talk can be made to go wrong.
  const front = createServer((socket) => {
    open.add(socket);
    socket.on('close', () => open.delete(socket));
    socket.on('error', () => undefined);
    const { answer } = state;
    if (typeof answer === 'object' && 'garbage' in answer) return garble(socket, answer.garbage);
    (server as unknown as { connect(socket: Socket): void }).connect(socket);
  });
  const state: TestSmtp = {
    url: '',
    mails,
    answer: 'accept',
    refusedSender: null,
    slowFor: null,
    get most() {
      return most;
    },
    set most(many) {
      most = many;
      while (waiting.length > 0 && mails.length < most) waiting.shift()!();
    },
    close: () =>
      new Promise((closed) => {
        for (const socket of open) socket.destroy();
        front.close(() => closed());
      }),
  };
  return new Promise((resolve) => {
    front.listen(port, '127.0.0.1', () => {
      const { port: taken } = front.address() as AddressInfo;
      resolve(Object.assign(state, { url: `smtp://127.0.0.1:${taken}` }));
    });
  });
}

/** Speaks just enough SMTP to come to the point at which it speaks something else. */
function garble(socket: Socket, at: 'greeting' | 'rcpt' | 'data'): void {
  const say = (text: string) => socket.write(`${text}\r\n`);
  if (at === 'greeting') return void say('who are you?');
  say('220 garbled');
  let text = false;
  socket.on('data', (chunk) => {
    for (const line of chunk.toString('latin1').split('\r\n')) {
      if (text) {
        if (line === '.') say('fine, I think');
      } else if (/^EHLO/i.test(line)) say('250 garbled');
      else if (/^MAIL/i.test(line)) say('250 ok');
      else if (/^RCPT/i.test(line)) say(at === 'rcpt' ? 'maybe' : '250 ok');
      else if (/^DATA/i.test(line)) {
        text = true;
        say('354 go on');
      }
    }
  });
}

/**
 * One line to the mail server, kept open between messages. It knows in which part of the talk a hand-over failed, and it is
 * cut when a message takes longer than it may, so that a server that hangs or drips never holds a line for good. The text of a
 * message flows only once its owner says that it may: until then the mail server has nothing that it could take.
 */
import { Readable } from 'node:stream';
import { classify, type DeliveryError, type DeliveryOutcome, type SmtpPhase } from '@zest-bell/core/nudges';
import { parseConnectionUrl } from 'nodemailer/lib/shared';
import SMTPConnection from 'nodemailer/lib/smtp-connection';

/** A finished message and who is named to the server for it. */
export interface Envelope {
  readonly from: string;
  readonly to: string;
  readonly raw: Buffer;
}

/** The longest that one message may take on the line, its connection included, in ms. */
const LONGEST_HAND_OVER = 45_000;
/** How long a server that is asked whether it answers may take, in ms. */
const ANSWERS_WITHIN = 5_000;
/** A server may close a line that is idle; ours is let go before that. */
const IDLE = 10_000;
/** Some servers count the messages of a connection: common practice, no source. */
const MOST_ON_ONE = 100;

/** Asked when the mail server waits for the text. What answers no leaves nothing there. */
export type BeforeText = () => Promise<boolean>;

/** The text may not flow. */
class NotBegun extends Error {}

/** A failed hand-over as the library tells it. */
interface LibraryError extends Error {
  readonly code?: string;
  readonly response?: string;
  readonly responseCode?: number;
  readonly command?: string;
}

export class SmtpLine {
  private readonly url: string;
  private readonly longest: number;
  private connection: SMTPConnection | null = null;
  private sent = 0;
  private idle: NodeJS.Timeout | undefined;

  constructor(url: string, longest: number = LONGEST_HAND_OVER) {
    this.url = url;
    this.longest = longest;
  }

  /** Hands one message over. Never throws. */
  async send(envelope: Envelope): Promise<DeliveryOutcome> {
    const outcome = await this.handOver(envelope, () => Promise.resolve(true));
    return outcome ?? { kind: 'transient', response: 'It was not begun' };
  }

  /** Hands one message over once it may begin; null when it may not. Never throws. */
  async handOver(envelope: Envelope, mayBegin: BeforeText): Promise<DeliveryOutcome | null> {
    clearTimeout(this.idle);
    const reused = this.connection !== null;
    let result = await this.attempt(envelope, mayBegin);
    // A line that the server closed while it was idle says nothing about the message.
    if (reused && isFailure(result) && result.responseCode === undefined && result.phase === 'recipient') {
      result = await this.attempt(envelope, mayBegin);
    }
    if (result === null) return null;
    if (isFailure(result)) {
      this.close();
      return classify(result);
    }
    this.sent += 1;
    if (this.sent >= MOST_ON_ONE) this.close();
    else this.idle = setTimeout(() => this.close(), IDLE).unref();
    return { kind: 'sent', response: result };
  }

  /** Whether the server says anything on a line of its own that carries no message. */
  answers(): Promise<boolean> {
    const options = connectionOptions(this.url);
    return new Promise((resolve) => {
      const connection = new SMTPConnection({
        ...options,
        greetingTimeout: ANSWERS_WITHIN,
        socketTimeout: ANSWERS_WITHIN,
      });
      const told = (answered: boolean) => {
        connection.close();
        resolve(answered);
      };
      connection.on('error', () => told(false));
      connection.connect((error) => (error ? told(false) : connection.reset((refused) => told(!refused))));
    });
  }

  close(): void {
    clearTimeout(this.idle);
    this.connection?.close();
    this.connection = null;
    this.sent = 0;
  }

  /** What the server said, or how it failed; null when it may not begin. */
  private attempt(envelope: Envelope, mayBegin: BeforeText): Promise<string | DeliveryError | null> {
    return new Promise((resolve) => {
      let phase: SmtpPhase = 'connect';
      let isFlowing = false;
      const text = Readable.from(
        (async function* () {
          if (!(await mayBegin().catch(() => false))) throw new NotBegun();
          isFlowing = true;
          yield envelope.raw;
        })(),
        { objectMode: false },
      );
      text.once('error', (error) => {
        if (!(error instanceof NotBegun)) return;
        // The line ends without the end of the text: what was begun there is nothing (RFC 5321 §4.1.1.4).
        this.close();
        finish(null);
      });
      const fail = (error: LibraryError) => {
        this.close();
        finish(failureOf(error, phase, isFlowing));
      };
      const late = setTimeout(
        () => fail(new AnswerTimeout(`The mail server took longer than ${Math.round(this.longest / 1000)} seconds`)),
        this.longest,
      );
      const finish = (result: string | DeliveryError | null) => {
        clearTimeout(late);
        this.connection?.removeListener('error', fail);
        resolve(result);
      };
      const hand = (connection: SMTPConnection) => {
        phase = 'recipient';
        connection.send({ from: envelope.from, to: envelope.to }, text, (error, info) =>
          error ? fail(error) : finish(info.response),
        );
      };
      if (this.connection) {
        this.connection.on('error', fail);
        return hand(this.connection);
      }
      const options = connectionOptions(this.url);
      const connection = new SMTPConnection(options);
      this.connection = connection;
      connection.on('error', fail);
      // After it is closed a line may still complain; nobody waits for that.
      connection.on('error', () => undefined);
      connection.connect((error) => {
        if (error) return fail(error);
        if (!options.auth || !connection.allowsAuth) return hand(connection);
        phase = 'signIn';
        connection.login(options.auth, (refused) => (refused ? fail(refused) : hand(connection)));
      });
    });
  }
}

const isFailure = (result: string | DeliveryError | null): result is DeliveryError =>
  result !== null && typeof result !== 'string';

type LineOptions = SMTPConnection.Options & { readonly auth?: SMTPConnection.AuthenticationType };

function connectionOptions(url: string): LineOptions {
  const given: LineOptions = parseConnectionUrl(url);
  const loopback = /^(localhost|127\.|\[?::1\]?$)/.test(given.host ?? '');
  return {
    connectionTimeout: 10_000,
    greetingTimeout: 10_000,
    socketTimeout: 30_000,
    ...given,
    // A password never leaves this machine unencrypted.
    ...(given.auth && !loopback && !given.secure ? { requireTLS: true } : {}),
  };
}

const PHASES: readonly (readonly [RegExp, SmtpPhase])[] = [
  [/^MAIL FROM/, 'sender'],
  [/^RCPT TO/, 'recipient'],
  [/^DATA/, 'text'],
];

/** The wait for an answer was given up. */
class AnswerTimeout extends Error {}

function failureOf(error: LibraryError, phase: SmtpPhase, textRead: boolean): DeliveryError {
  const response = error.response ?? error.message;
  const { responseCode } = error;
  if (error.code === 'ETLS') return { phase: 'encrypt', responseCode, response };
  if (phase !== 'recipient') return { phase, responseCode, response };
  // Nothing was asked of the server: an address or a size that cannot be handed over.
  if (!error.response && (error.command === 'API' || error.code === 'EMESSAGE')) {
    return { phase, response, unsound: true };
  }
  const named = PHASES.find(([pattern]) => pattern.test(error.command ?? ''))?.[1];
  // A line that drops is told without its command; whether the text was being read says how far it was.
  if (responseCode === undefined) {
    const isLate = error instanceof AnswerTimeout;
    const dropped = !isLate && error.code !== 'ETIMEDOUT';
    return { phase: textRead ? 'text' : 'recipient', response, late: isLate, dropped };
  }
  return { phase: named ?? (textRead ? 'text' : 'recipient'), responseCode, response };
}

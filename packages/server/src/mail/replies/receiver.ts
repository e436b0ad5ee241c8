/** The server's own receiver: an SMTP server that takes mail for the tagged addresses of nudges, and no other. */
import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';
import { tagOfAddress, type Tag } from './address.ts';
import { readMail, receive } from './receive.ts';
import type { CourseServices } from '../../course/services.ts';

/** As what it greets: other processes of the machine know it by that. */
export const RECEIVER_BANNER = 'Zest Bell';

const MOST_BYTES = 2 * 1024 * 1024;

export interface ReceiverOptions {
  /** 0 takes any free port. */
  readonly port: number;
  readonly host: string;
  readonly domain: string;
  readonly secret: string;
  /** When something came in: replies may be passed on at once. */
  readonly onArrival: () => void;
}

export interface Receiver {
  readonly port: number;
  close(): Promise<void>;
}

const refusal = (code: number, text: string) => Object.assign(new Error(text), { responseCode: code });

/** Connections at once, in all and from one address; common practice, no source. */
const MOST_CLIENTS = 100;
const MOST_OF_ONE = 10;
/** The longest that one connection may last, whatever it says, in ms. */
const LONGEST_SESSION = 5 * 60_000;
const MOST_RECIPIENTS = 10;

export function openReceiver(services: CourseServices, options: ReceiverOptions): Promise<Receiver> {
  const tagOf = (address: string) => tagOfAddress(options.secret, options.domain, address);
  const clients = new Map<string, number>();
  /** Counted connections; a refused one is not counted. */
  const counted = new Set<string>();
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    disableReverseLookup: true,
    name: options.domain,
    banner: RECEIVER_BANNER,
    size: MOST_BYTES,
    logger: false,
    maxClients: MOST_CLIENTS,
    socketTimeout: 60_000,
    onConnect({ id, remoteAddress }, done) {
      const open = clients.get(remoteAddress) ?? 0;
      if (open >= MOST_OF_ONE) return done(refusal(421, '4.7.0 Too many connections from your address'));
      clients.set(remoteAddress, open + 1);
      counted.add(id);
      setTimeout(() => cut(server, id), LONGEST_SESSION).unref();
      done();
    },
    onClose({ id, remoteAddress }) {
      if (!counted.delete(id)) return;
      const open = (clients.get(remoteAddress) ?? 1) - 1;
      if (open > 0) clients.set(remoteAddress, open);
      else clients.delete(remoteAddress);
    },
    onRcptTo({ address }, session, done) {
      if (session.envelope.rcptTo.length >= MOST_RECIPIENTS) return done(refusal(452, '4.5.3 Too many recipients'));
      done(tagOf(address) === null ? refusal(550, '5.1.1 No such address here') : undefined);
    },
    onData(stream, session, done) {
      const parts: Buffer[] = [];
      let size = 0;
      stream.on('data', (part: Buffer) => {
        size += part.length;
        if (size <= MOST_BYTES) parts.push(part);
        else parts.length = 0;
      });
      stream.on('end', () => {
        if (stream.sizeExceeded) return done(refusal(552, '5.3.4 That is more than is taken here'));
        const source = Buffer.concat(parts);
        if (isOverlongHead(source)) return done(refusal(552, '5.3.4 Its header is longer than is taken here'));
        const { mailFrom, rcptTo } = session.envelope;
        const envelopeFrom = mailFrom ? mailFrom.address : '';
        takeIn(
          services,
          source,
          envelopeFrom,
          rcptTo.map((r) => tagOf(r.address)),
        )
          .then((taken) => {
            if (!taken) return done(refusal(550, '5.1.1 No such nudge'));
            options.onArrival();
            done(null, '2.0.0 taken');
          })
          .catch((error: unknown) => {
            services.logger.error({ err: error }, 'a reply could not be stored');
            done(refusal(451, '4.3.0 Try again later'));
          });
      });
    },
  });
  return new Promise((resolve, reject) => {
    server.on('error', reject);
    server.listen(options.port, options.host, () => {
      const { port } = server.server.address() as AddressInfo;
      resolve({ port, close: () => new Promise((closed) => server.close(() => closed())) });
    });
  });
}

/** No mail program writes more; anyone who does is told so for good, not to try again. */
const LONGEST_HEAD = 256 * 1024;
const MOST_HEADER_LINES = 2_000;

function isOverlongHead(source: Buffer): boolean {
  let lines = 0;
  for (let at = 0; at < source.length; lines++) {
    const end = source.indexOf(0x0a, at);
    // The empty line below the header (RFC 5322 §2.1).
    if (end < 0 || end === at || (end === at + 1 && source[at] === 0x0d)) return false;
    if (end > LONGEST_HEAD || lines >= MOST_HEADER_LINES) return true;
    at = end + 1;
  }
  return false;
}

/** For every nudge that it was sent to; false when it belongs to none. */
async function takeIn(
  services: CourseServices,
  source: Buffer,
  envelopeFrom: string,
  tags: readonly (Tag | null)[],
): Promise<boolean> {
  const mail = await readMail(source);
  let taken = false;
  for (const tag of tags) taken = (await receive(services, { envelopeFrom, tag, mail })) || taken;
  return taken;
}

/** Ends a connection that has lasted too long. */
function cut(server: SMTPServer, id: string): void {
  for (const connection of server.connections as Set<{ readonly id?: string; close?: () => void }>) {
    if (connection.id === id) connection.close?.();
  }
}

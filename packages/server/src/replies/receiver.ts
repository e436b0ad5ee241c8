/** The server's own receiver: an SMTP server that takes mail for the tagged addresses of nudges, and no other. */
import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';
import { nudgeOfAddress } from './address.ts';
import { receive } from './receive.ts';
import type { Services } from '../platform/services.ts';

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

export function openReceiver(services: Services, options: ReceiverOptions): Promise<Receiver> {
  const nudgeOf = (address: string) => nudgeOfAddress(options.secret, options.domain, address);
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    disableReverseLookup: true,
    name: options.domain,
    size: MOST_BYTES,
    logger: false,
    onRcptTo(address, _session, done) {
      done(nudgeOf(address.address) === null ? refusal(550, '5.1.1 No such address here') : undefined);
    },
    onData(stream, session, done) {
      const parts: Buffer[] = [];
      stream.on('data', (part: Buffer) => parts.push(part));
      stream.on('end', () => {
        if (stream.sizeExceeded) return done(refusal(552, '5.3.4 That is more than is taken here'));
        const { mailFrom, rcptTo } = session.envelope;
        const envelopeFrom = mailFrom ? mailFrom.address : '';
        receive(services, { envelopeFrom, nudge: nudgeOf(rcptTo[0]!.address), source: Buffer.concat(parts) })
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

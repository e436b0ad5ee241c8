/**
 * Requests that the server sends out: to origins that somebody typed, over HTTPS, to no address inside the institution unless that is
 * allowed, and bounded in size and time. The address is looked at as it is connected to, so that a name that changes its mind between
 * question and answer gains nothing.
 */
import { lookup, type LookupAddress } from 'node:dns';
import { request as overHttp, type IncomingHttpHeaders, type RequestOptions } from 'node:http';
import { request as overHttps } from 'node:https';
import { BlockList, isIP, type LookupFunction } from 'node:net';
import { wallClock } from '../process/clock.ts';
import { elsewhere } from '../turns/requestQueue.ts';

const LONGEST = 20_000;
const LARGEST = 30 << 20;
const MOST_REDIRECTS = 3;

export const OUTGOING_TROUBLES = [
  'unauthorized',
  'throttled',
  'serverError',
  'refused',
  'garbage',
  'unreachable',
  'tooSlow',
  'tooLarge',
  'forbiddenAddress',
] as const;
export type OutgoingTroubleCode = (typeof OUTGOING_TROUBLES)[number];

/** Why a request came to nothing. */
export class OutgoingTrouble extends Error {
  readonly code: OutgoingTroubleCode;
  /** How long the other side wants to be left alone, in ms. */
  readonly retryAfter: number;
  /** What it answered; 0 for nothing. */
  readonly status: number;

  constructor(code: OutgoingTroubleCode, message: string, { retryAfter = 0, status = 0 } = {}) {
    super(message);
    this.code = code;
    this.retryAfter = retryAfter;
    this.status = status;
  }
}

export interface OutgoingRequest {
  readonly method?: 'GET' | 'POST';
  readonly headers?: Readonly<Record<string, string>>;
  readonly body?: string;
  /** Where it may go: origins that were typed. */
  readonly origins: readonly string[];
}

export interface OutgoingResponse {
  readonly status: number;
  readonly headers: IncomingHttpHeaders;
  readonly text: string;
}

export interface OutgoingClient {
  /** Throws `OutgoingTrouble` where there is no answer; any status is an answer. */
  readonly ask: (url: string, asking: OutgoingRequest) => Promise<OutgoingResponse>;
  /** Whether an address could be asked at all; why not, otherwise. */
  readonly whyNot: (url: string) => string | null;
}

/** Loopback, private, link-local, shared, multicast and unspecified (RFC 6890), and what only maps to such. */
const INSIDE = new BlockList();
for (const [net, bits] of [
  ...(['0.0.0.0/8', '10.0.0.0/8', '100.64.0.0/10', '127.0.0.0/8', '169.254.0.0/16', '172.16.0.0/12'] as const),
  ...([
    '192.0.0.0/24',
    '192.0.2.0/24',
    '192.168.0.0/16',
    '198.18.0.0/15',
    '198.51.100.0/24',
    '203.0.113.0/24',
  ] as const),
  ...(['224.0.0.0/4', '240.0.0.0/4'] as const),
].map((n) => n.split('/') as [string, string]))
  INSIDE.addSubnet(net, Number(bits), 'ipv4');
for (const [net, bits] of [
  '::/96',
  '64:ff9b::/96',
  '64:ff9b:1::/48',
  '100::/64',
  '2001::/23',
  '2002::/16',
  'fc00::/7',
  'fe80::/10',
  'ff00::/8',
].map((n) => n.split('/') as [string, string]))
  INSIDE.addSubnet(net, Number(bits), 'ipv6');

/** Whether an address is of this machine or of a network that is not everybody's. */
export function isInsideAddress(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  const plain = mapped ?? address;
  return INSIDE.check(plain, isIP(plain) === 6 ? 'ipv6' : 'ipv4');
}

const bare = (host: string): string => host.replace(/^\[|\]$/g, '');

export function outgoing({ allowPrivate }: { readonly allowPrivate: boolean }): OutgoingClient {
  const whyNot = (text: string): string | null => {
    if (!URL.canParse(text)) return 'Type a web address such as https://platform.example.edu';
    const { protocol, hostname, username } = new URL(text);
    if (username !== '') return 'An address with a user name in it is not called';
    if (protocol !== 'https:' && !(protocol === 'http:' && allowPrivate)) return 'Only https addresses are called';
    const host = bare(hostname);
    if (isIP(host) !== 0 && isInsideAddress(host) && !allowPrivate)
      return 'An address of a private network is not called';
    return null;
  };

  /** The addresses that a name has are looked at before any of them is connected to. */
  const looked: LookupFunction = (hostname, options, done) => {
    lookup(hostname, { ...options, all: true }, (error, found: LookupAddress[]) => {
      if (error) return done(error, '', 0);
      const open = allowPrivate ? found : found.filter((a) => !isInsideAddress(a.address));
      const [first] = open;
      if (!first) return done(Object.assign(new Error('A private address'), { code: 'FORBIDDEN_ADDRESS' }), '', 0);
      if (options.all === true) return (done as unknown as (e: null, all: LookupAddress[]) => void)(null, open);
      done(null, first.address, first.family);
    });
  };

  const once = (url: URL, { method = 'GET', headers, body }: OutgoingRequest): Promise<OutgoingResponse> =>
    new Promise((resolve, reject) => {
      const send = url.protocol === 'https:' ? overHttps : overHttp;
      const options: RequestOptions = { method, headers: { accept: 'application/json', ...headers }, lookup: looked };
      const req = send(url, options, (res) => {
        const parts: Buffer[] = [];
        let size = 0;
        res.on('data', (part: Buffer) => {
          size += part.length;
          if (size > LARGEST) {
            req.destroy(new OutgoingTrouble('tooLarge', 'The answer is too large'));
            return;
          }
          parts.push(part);
        });
        res.on('end', () =>
          resolve({ status: res.statusCode ?? 0, headers: res.headers, text: Buffer.concat(parts).toString('utf8') }),
        );
        res.on('aborted', () => reject(new OutgoingTrouble('unreachable', 'The line broke off')));
      });
      const timer = setTimeout(
        () => req.destroy(new OutgoingTrouble('tooSlow', 'There was no answer in time')),
        LONGEST,
      );
      req.on('close', () => clearTimeout(timer));
      req.on('error', (error: Error & { code?: string }) => {
        if (error instanceof OutgoingTrouble) return reject(error);
        const isForbidden = error.code === 'FORBIDDEN_ADDRESS';
        reject(
          new OutgoingTrouble(
            isForbidden ? 'forbiddenAddress' : 'unreachable',
            isForbidden
              ? 'Its name leads to a private address'
              : `It cannot be reached (${error.code ?? error.message})`,
          ),
        );
      });
      req.end(body);
    });

  return {
    whyNot,
    async ask(text, asking) {
      let url = text;
      for (let hops = 0; ; hops++) {
        const why = whyNot(url);
        if (why !== null) throw new OutgoingTrouble('forbiddenAddress', why);
        const { origin } = new URL(url);
        if (!asking.origins.includes(origin))
          throw new OutgoingTrouble('forbiddenAddress', `${origin} was never typed`);
        const came = await elsewhere(() => once(new URL(url), asking));
        const to = came.headers.location;
        if (came.status < 300 || came.status > 399 || to === undefined || asking.method === 'POST') return came;
        if (hops >= MOST_REDIRECTS) throw new OutgoingTrouble('refused', 'It leads on and on');
        url = new URL(to, url).href;
        if (new URL(url).origin !== origin) throw new OutgoingTrouble('refused', 'It leads to another site');
      }
    },
  };
}

/** Throws what a status means where it is no success. */
export function mustBeGood({ status, headers }: OutgoingResponse, what: string): void {
  if (status >= 200 && status < 300) return;
  const said = headers['retry-after'];
  const seconds = Number(said);
  const retryAfter =
    said === undefined
      ? 0
      : Number.isFinite(seconds)
        ? seconds * 1000
        : Math.max(0, Date.parse(said) - wallClock()) || 0;
  const code =
    status === 401 || status === 403
      ? 'unauthorized'
      : status === 429
        ? 'throttled'
        : status >= 500
          ? 'serverError'
          : 'refused';
  throw new OutgoingTrouble(code, `${what} was answered with ${status}`, { retryAfter, status });
}

/** The JSON of an answer. Throws `garbage`. */
export function jsonOf({ text }: OutgoingResponse, what: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new OutgoingTrouble('garbage', `${what} was answered with something that is no JSON`);
  }
}

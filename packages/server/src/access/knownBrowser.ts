/**
 * A browser that has signed in to an account before holds a signed cookie that says so, for 90 days. It opens nothing: it only gives the
 * browser counters of its own, so that nobody else's wrong passwords keep its owner out.
 */
import { randomUUID, timingSafeEqual } from 'node:crypto';
import type { Request, Response } from 'express';
import { setAfterSession } from './sessions.ts';
import type { Seal } from '../platform/process/seal.ts';
import { wallClock } from '../platform/process/clock.ts';
import { KNOWN_FOR } from './tries.ts';

const nameFor = (account: number): string => `zest-bell-known-${account}`;
const signed = (seal: Seal, account: number, browser: string, until: string): string =>
  seal.mark(`known browser\n${account}\n${browser}\n${until}`);

/** The browser's own id, where it holds a cookie of this account that is still good; else null. */
export function knownBrowser(req: Request, seal: Seal, account: number, now = wallClock()): string | null {
  const [, value] = new RegExp(`(?:^|;\\s*)${nameFor(account)}=([\\w.-]+)`).exec(req.headers.cookie ?? '') ?? [];
  const [browser, until, mark] = value?.split('.') ?? [];
  if (browser === undefined || until === undefined || mark === undefined || !(Number(until) > now)) return null;
  const [shown, wanted] = [Buffer.from(mark), Buffer.from(signed(seal, account, browser, until))];
  return shown.length === wanted.length && timingSafeEqual(shown, wanted) ? browser : null;
}

/** After a whole sign-in; the browser keeps the id that it has. */
export function knowBrowser(req: Request, res: Response, seal: Seal, account: number, now = wallClock()): void {
  const browser = knownBrowser(req, seal, account, now) ?? randomUUID();
  const until = String(now + KNOWN_FOR);
  const value = `${browser}.${until}.${signed(seal, account, browser, until)}`;
  const about = `Max-Age=${KNOWN_FOR / 1000}; Path=/api/v1/session; HttpOnly; SameSite=Lax`;
  setAfterSession(res, `${nameFor(account)}=${value}; ${about}${req.secure ? '; Secure' : ''}`);
}

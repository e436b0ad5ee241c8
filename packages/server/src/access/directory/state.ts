/** What a browser holds while somebody signs in at the provider: sealed, for ten minutes, one for each sign-in that was begun. */
import type { Request, Response } from 'express';
import { MINUTE } from '@zest-bell/core/time';
import { wallClock } from '../../platform/process/clock.ts';
import type { Seal } from '../../platform/process/seal.ts';
import type { BegunSignIn } from './provider.ts';

const LIVES = 10 * MINUTE;
const PATH = '/oidc';

export type SignInPurpose = 'signIn' | 'confirm' | 'join';

export interface SignInState extends BegunSignIn {
  readonly issuer: string;
  readonly purpose: SignInPurpose;
  /** The page to come back to. */
  readonly then: string;
  readonly invitation: string | null;
  readonly until: number;
}

/** Two tabs may sign in at once: a cookie is named by its state. */
const nameOf = (state: string): string => `zest-bell-sign-in-${state.replace(/[^\w-]/g, '').slice(0, 16)}`;

export interface CookieOptions {
  readonly seal: Seal;
  readonly secure: boolean;
}

export function keepState(
  res: Response,
  { seal, secure }: CookieOptions,
  state: Omit<SignInState, 'until'>,
  now = wallClock(),
): void {
  const value = seal.close(JSON.stringify({ ...state, until: now + LIVES }));
  // Sent along where the provider leads back to us, as that is a page that the browser opens.
  res.cookie(nameOf(state.state), value, { path: PATH, httpOnly: true, sameSite: 'lax', secure, maxAge: LIVES });
}

/** What this browser began with the state of an answer; null for another browser, for one that is over, and the second time. */
export function takeState(
  req: Request,
  res: Response,
  { seal, secure }: CookieOptions,
  now = wallClock(),
): SignInState | null {
  const state = typeof req.query['state'] === 'string' ? req.query['state'] : '';
  const name = nameOf(state);
  const value = (req.headers.cookie ?? '')
    .split(';')
    .map((pair) => pair.trim())
    .find((pair) => pair.startsWith(`${name}=`))
    ?.slice(name.length + 1);
  if (value === undefined) return null;
  res.clearCookie(name, { path: PATH, httpOnly: true, sameSite: 'lax', secure });
  try {
    const kept = JSON.parse(seal.open(decodeURIComponent(value))) as SignInState;
    return kept.state === state && kept.until > now ? kept : null;
  } catch {
    return null;
  }
}

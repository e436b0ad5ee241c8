/** The signed address at which a student pauses nudges without signing in. It names one nudge and gives nothing else away. */
import { createHmac, timingSafeEqual } from 'node:crypto';

const sign = (secret: string, nudge: string): string =>
  createHmac('sha256', secret).update(`pause ${nudge}`).digest('base64url').slice(0, 32);

export const pauseToken = (secret: string, nudge: number): string => `${nudge}.${sign(secret, String(nudge))}`;

/** The nudge that a token names, or null when it was not signed here. */
export function nudgeOfToken(secret: string, token: string): number | null {
  const [nudge, given] = token.split('.');
  if (!nudge || !given || !/^\d{1,15}$/.test(nudge)) return null;
  const wanted = Buffer.from(sign(secret, nudge));
  const got = Buffer.from(given);
  return got.length === wanted.length && timingSafeEqual(got, wanted) ? Number(nudge) : null;
}

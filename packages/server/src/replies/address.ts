/** The tagged address of a nudge: whatever comes to it is about that nudge, and nobody can make one up. */
import { createHmac, timingSafeEqual } from 'node:crypto';

const sign = (secret: string, nudge: string): string =>
  createHmac('sha256', secret).update(`reply ${nudge}`).digest('hex').slice(0, 20);

export const replyAddress = (secret: string, domain: string, nudge: number): string =>
  `nudge+${nudge}.${sign(secret, String(nudge))}@${domain}`;

/** The nudge of an address, or null when it is none of ours. */
export function nudgeOfAddress(secret: string, domain: string, address: string): number | null {
  const match = /^nudge\+(\d{1,15})\.([0-9a-f]{20})@(.+)$/i.exec(address.trim());
  if (!match || match[3]!.toLowerCase() !== domain.toLowerCase()) return null;
  const wanted = Buffer.from(sign(secret, match[1]!));
  return timingSafeEqual(Buffer.from(match[2]!.toLowerCase()), wanted) ? Number(match[1]) : null;
}

/**
 * The tagged address of a message: whatever comes to it is about its nudge, and nobody can make one up. A third party has a
 * tag of their own, so that what they write, or what bounces from them, is never taken for the student's.
 */
import { createHmac, timingSafeEqual } from 'node:crypto';

export interface Tag {
  readonly nudge: number;
  /** The message to a third party; null for the student's. */
  readonly message: number | null;
}

const textOf = ({ nudge, message }: Tag): string => (message === null ? String(nudge) : `${nudge}-${message}`);

const sign = (secret: string, tag: string): string =>
  createHmac('sha256', secret).update(`reply ${tag}`).digest('hex').slice(0, 20);

export const replyAddress = (secret: string, domain: string, tag: Tag): string =>
  `nudge+${textOf(tag)}.${sign(secret, textOf(tag))}@${domain}`;

/** The tag of an address, or null for a foreign address. */
export function tagOfAddress(secret: string, domain: string, address: string): Tag | null {
  const match = /^nudge\+(\d{1,15})(?:-(\d{1,15}))?\.([0-9a-f]{20})@(.+)$/i.exec(address.trim());
  if (!match || match[4]!.toLowerCase() !== domain.toLowerCase()) return null;
  const tag: Tag = { nudge: Number(match[1]), message: match[2] === undefined ? null : Number(match[2]) };
  const wanted = Buffer.from(sign(secret, textOf(tag)));
  return timingSafeEqual(Buffer.from(match[3]!.toLowerCase()), wanted) ? tag : null;
}

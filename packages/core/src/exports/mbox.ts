/** A mail folder as one file: mbox (RFC 4155) with the quoting of mboxrd, which can be undone. */
import type { Instant } from '../time/instant.ts';

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** `From ada@x.example Thu Jan  1 00:00:00 1970`: the sender and the hand-over in UTC, as asctime writes it (RFC 4155, appendix A). */
export function fromLine(address: string, at: Instant): string {
  const t = new Date(at);
  const two = (n: number) => String(n).padStart(2, '0');
  const day = String(t.getUTCDate()).padStart(2, ' ');
  const time = [t.getUTCHours(), t.getUTCMinutes(), t.getUTCSeconds()].map(two).join(':');
  const sender = address.replace(/\s/g, '') || 'MAILER-DAEMON';
  return `From ${sender} ${DAYS[t.getUTCDay()]} ${MONTHS[t.getUTCMonth()]} ${day} ${time} ${t.getUTCFullYear()}`;
}

/** Lines that begin with “From ”, also behind signs of quoting, get one more sign. */
export const quotedMessage = (message: string): string => message.replace(/^(>*From )/gm, '>$1');

/** What `quotedMessage` did, undone. */
export const unquotedMessage = (message: string): string => message.replace(/^>(>*From )/gm, '$1');

/** A message with the line before it, and the empty line after it that the next one needs. Lines end with a line feed alone. */
export function mboxEntry(message: string, address: string, at: Instant): string {
  const lines = quotedMessage(message.replace(/\r\n/g, '\n'));
  return `${fromLine(address, at)}\n${lines}${lines.endsWith('\n') ? '' : '\n'}\n`;
}

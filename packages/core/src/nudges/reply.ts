/** What comes back after a nudge, told apart by its headers: a person's answer, a machine's, or a bounce. */
export const REPLY_KINDS = ['reply', 'autoReply', 'bounce'] as const;
export type ReplyKind = (typeof REPLY_KINDS)[number];

export interface ReturnedMail {
  /** The SMTP envelope's sender; empty for what a mail server sends on its own (RFC 5321 §4.5.5). */
  readonly envelopeFrom: string;
  /** Header values by lower-case name. */
  readonly headers: Readonly<Record<string, string | undefined>>;
}

const IN_SUBJECT =
  /^(?:re:\s*)?(?:out of (?:the )?office|automatic reply|auto(?:matic)?[- ]?reply|away from my mail|vacation)\b/i;

/** RFC 3464 for bounces, RFC 3834 §5 for automatic replies, and what older programs put in their place. */
export function replyKind({ envelopeFrom, headers }: ReturnedMail): ReplyKind {
  const type = headers['content-type']?.toLowerCase() ?? '';
  if (/multipart\/report/.test(type) && /delivery-status/.test(type)) return 'bounce';
  const auto = headers['auto-submitted']?.toLowerCase().trim();
  if (auto !== undefined && auto !== 'no') return 'autoReply';
  if (headers['x-autoreply'] !== undefined || headers['x-autorespond'] !== undefined) return 'autoReply';
  if (/\b(auto_reply|bulk|junk)\b/i.test(headers['precedence'] ?? '')) return 'autoReply';
  if (IN_SUBJECT.test(headers['subject'] ?? '')) return 'autoReply';
  return envelopeFrom === '' ? 'bounce' : 'reply';
}

/** Whether a bounce says that the address itself does not work (RFC 3463: class 5), rather than that it will be tried again. */
export function isPermanentBounce(text: string): boolean {
  const status = /^Status:\s*(\d)\./im.exec(text)?.[1];
  return status === undefined ? !/\b(delayed|will be retried|will keep trying)\b/i.test(text) : status === '5';
}

/** The answer without what it quotes: lines of the earlier message, the line that leads them in, and a signature. */
export function withoutQuotes(text: string): string {
  const lines = text.replace(/\r\n/g, '\n').split('\n');
  const until = lines.findIndex((_, i) => isLead(lines, i));
  const own = (until < 0 ? lines : lines.slice(0, until))
    .filter((l) => !l.startsWith('>'))
    .join('\n')
    .trim();
  // Somebody who answers between the lines of the quotation still said something.
  return own === '' ? text.trim() : own;
}

/** What mail programs write above a quotation, in the most common languages; a longer line is not such a line. */
const LEADS = [
  /^On .+ wrote:$/,
  /^Am .+ schrieb .+:$/,
  /^Le .+ a écrit\s?:$/,
  /^El .+ escribió:$/,
  /^-{2,} ?Original Message ?-{2,}$/i,
  // A signature, as RFC 3676 §4.3 marks it, with or without its blank.
  /^-- ?$/,
];
const LONGEST_LEAD = 300;

function isLead(lines: readonly string[], i: number): boolean {
  const line = lines[i]!;
  const trimmed = line.length > LONGEST_LEAD ? '' : line.trim();
  if (LEADS.some((lead) => lead.test(trimmed))) return true;
  const next = lines[i + 1] ?? '';
  // Broken in two by the length of its address.
  if (/^On /.test(line) && /wrote:$/.test(next.slice(-LONGEST_LEAD)) && !LEADS[0]!.test(next.trim())) return true;
  // A block of the earlier message's headers.
  return /^From: ?\S/.test(line) && /^(?:Sent|Date): ?\S/.test(next);
}

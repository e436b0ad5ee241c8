/** What comes back after a nudge, told apart by its headers: a person's answer, a machine's, or a bounce. */
export const REPLY_KINDS = ['reply', 'autoReply', 'bounce'] as const;
export type ReplyKind = (typeof REPLY_KINDS)[number];

export interface ReturnedMail {
  /** The SMTP envelope's sender; empty for what a mail server sends by itself (RFC 5321 §4.5.5). */
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

/** The answer without what it quotes: lines of the earlier message, and the line that leads them in. */
export function withoutQuotes(text: string): string {
  const lines = text.replace(/\r\n/g, '\n').split('\n');
  const lead = lines.findIndex(
    (l, i) => /^On .+ wrote:$/.test(l.trim()) || (/wrote:$/.test(l) && /^On /.test(lines[i - 1] ?? '')),
  );
  const until = lead < 0 ? lines : lines.slice(0, /^On /.test(lines[lead]!.trim()) ? lead : lead - 1);
  const own = until
    .filter((l) => !l.startsWith('>'))
    .join('\n')
    .trim();
  // Somebody who answers between the lines of the quotation still said something.
  return own === '' ? text.trim() : own;
}

/** Headers of a mail as they were written, each in one line (RFC 5322 §2.2.3). One walk each, however many a mail has. */
import type { ParsedMail } from 'mailparser';

const inOneLine = ({ key, line }: ParsedMail['headerLines'][number]): string =>
  line
    .slice(key.length + 1)
    .replace(/\r?\n\s+/g, ' ')
    .trim();

/** By lower-case name; of one that is there more than once, the last. */
export const headersOf = (mail: ParsedMail): Readonly<Record<string, string>> =>
  Object.fromEntries(mail.headerLines.map((h) => [h.key, inOneLine(h)]));

/** All of one name. */
export const headersCalled = (mail: ParsedMail, name: string): string[] =>
  mail.headerLines.filter((h) => h.key === name).map(inOneLine);

/** A header of a mail as it was written, in one line, as often as it stands there (RFC 5322 §2.2.3). */
import type { ParsedMail } from 'mailparser';

export const headerText = (mail: ParsedMail, name: string): string[] =>
  mail.headerLines
    .filter((h) => h.key === name)
    .map((h) =>
      h.line
        .slice(name.length + 1)
        .replace(/\r?\n\s+/g, ' ')
        .trim(),
    );

import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { runs } from '../testing/runs.ts';
import { fromLine, mboxEntry, quotedMessage, unquotedMessage } from './mbox.ts';

describe('a mail folder (RFC 4155, mboxrd)', () => {
  test('the line before a message has its sender and the hand-over in UTC', () => {
    // As asctime writes it, a day of one digit behind a blank.
    expect(fromLine('ada@saltmarsh.example', Date.UTC(2026, 9, 5, 7, 4, 9))).toBe(
      'From ada@saltmarsh.example Mon Oct  5 07:04:09 2026',
    );
    expect(fromLine('', 0)).toBe('From MAILER-DAEMON Thu Jan  1 00:00:00 1970');
  });

  test('quoting can be undone, whatever a message says', () => {
    const line = fc.constantFrom('From here', '>From there', '>>From', 'from', ' From', 'x', '', '>From ');
    fc.assert(
      fc.property(fc.array(line, { maxLength: 8 }), (lines) => {
        const message = lines.join('\n');
        expect(unquotedMessage(quotedMessage(message))).toBe(message);
        expect(/^From /m.test(quotedMessage(message))).toBe(false);
      }),
      runs(254, 200),
    );
  });

  test('entries stand apart by an empty line', () => {
    const entry = mboxEntry('Subject: x\r\n\r\nFrom now on', 'a@b.example', 0);
    expect(entry).toBe('From a@b.example Thu Jan  1 00:00:00 1970\nSubject: x\n\n>From now on\n\n');
  });
});

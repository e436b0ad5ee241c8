/** What leaves, byte by byte: signed where a key is set, checked by a verifier that is not ours. */
import { generateKeyPairSync } from 'node:crypto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { dkimVerify } from 'mailauth/lib/dkim/verify.js';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { htmlOfPlain, smtpTransport, type MailTransport, type OutgoingMail, type DkimKey } from './mail.ts';

let smtp: TestSmtp;
let transport: MailTransport;
beforeEach(async () => {
  smtp = await openSmtp();
});
afterEach(async () => {
  transport.close();
  await smtp.close();
});

const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
const signing: DkimKey = {
  domain: 'saltmarsh.example',
  selector: 'bell',
  key: String(privateKey.export({ type: 'pkcs8', format: 'pem' })),
};
const record = `v=DKIM1; k=rsa; p=${publicKey.export({ type: 'spki', format: 'der' }).toString('base64')}`;
const asked: string[] = [];
const resolver = (name: string) => {
  asked.push(name);
  return Promise.resolve([[record]]);
};

const MAIL: OutgoingMail = {
  from: { name: 'Dr. A. Lind', address: 'ada@saltmarsh.example' },
  replyTo: 'office@saltmarsh.example',
  to: { name: 'Zoë “Z” Lind', address: 'p1@saltmarsh.example' },
  subject: 'Où es-tu ? 久しぶり, a subject that is long enough to be folded over more than one line of the header',
  text: 'Zoë,\n\n. a dot at the start of a line\n.\nand a line of its own.',
  html: '<p>Zoë,</p>',
  messageId: '<one@saltmarsh.example>',
  date: new Date('2026-09-05T13:30:00Z'),
  inReplyTo: '<zero@saltmarsh.example>',
  pauseLink: 'https://bell.saltmarsh.example/p/1.abc',
  envelopeFrom: 'nudge+1.abc@bell.saltmarsh.example',
};

async function arrived(mail: OutgoingMail, key: DkimKey | null) {
  transport = smtpTransport(smtp.url, { signing: key });
  expect(await transport.send(mail)).toMatchObject({ kind: 'sent' });
  return smtp.mails[0]!;
}

describe('a signed message (RFC 6376)', () => {
  test('is verified as it arrives, and its pause link is signed with it (RFC 8058 §4)', async () => {
    const { source } = await arrived(MAIL, signing);
    const { results } = await dkimVerify(source, { resolver });
    expect(results).toMatchObject([
      { signingDomain: 'saltmarsh.example', selector: 'bell', status: { result: 'pass' } },
    ]);
    expect(asked).toContain('bell._domainkey.saltmarsh.example');
    const signed = /\bh=([^;]+);/
      .exec(source.toString().replace(/\r\n\s+/g, ''))![1]!
      .toLowerCase()
      .split(':');
    expect(signed).toEqual(expect.arrayContaining(['from', 'subject', 'list-unsubscribe', 'list-unsubscribe-post']));
  });

  test('that somebody changed on the way is not', async () => {
    const { source } = await arrived(MAIL, signing);
    const changed = Buffer.from(source.toString().replace('/p/1.abc', '/p/2.abc'));
    const { results } = await dkimVerify(changed, { resolver });
    expect(results).toMatchObject([{ status: { result: 'fail' } }]);
  });
});

test('without a key nothing is signed', async () => {
  const { source } = await arrived(MAIL, null);
  expect(source.toString()).not.toMatch(/^dkim-signature:/im);
});

describe('a message parsed back', () => {
  test('has its subject whole (RFC 2047), its thread, its one-click pause link, and its words as they were', async () => {
    const { mail, to } = await arrived(MAIL, null);
    expect(mail.subject).toBe(MAIL.subject);
    expect(mail.to).toMatchObject({ value: [{ name: MAIL.to.name, address: MAIL.to.address }] });
    expect([mail.inReplyTo, mail.references]).toEqual([MAIL.inReplyTo, MAIL.inReplyTo]);
    // RFC 2369 §3.2 and RFC 8058 §3.1, as mailparser groups them.
    expect(mail.headers.get('list')).toMatchObject({ unsubscribe: { url: MAIL.pauseLink } });
    expect(mail.headerLines.find((h) => h.key === 'list-unsubscribe-post')!.line).toMatch(/List-Unsubscribe=One-Click/);
    expect(mail.text!.trim()).toBe(MAIL.text);
    expect(to).toEqual([MAIL.to.address]);
  });

  test('has a folded header line of at most 998 octets (RFC 5322 §2.1.1)', async () => {
    const { source } = await arrived(MAIL, signing);
    expect(
      Math.max(
        ...source
          .toString('latin1')
          .split('\r\n')
          .map((l) => l.length),
      ),
    ).toBeLessThanOrEqual(998);
  });
});

test('plain text as HTML has paragraphs, and a link where a line is an address and nothing else', () => {
  const address = 'https://bell.example/invitation?a=1&b=2#secret';
  expect(htmlOfPlain(`Open this:\n${address}\n\nNot ${address} or javascript:alert(1) or <b>this</b>.`)).toBe(
    '<p>Open this:<br><a href="https://bell.example/invitation?a=1&#38;b=2#secret">https://bell.example/invitation?a=1&#38;b=2#secret</a></p>\n' +
      '<p>Not https://bell.example/invitation?a=1&#38;b=2#secret or javascript:alert(1) or &#60;b&#62;this&#60;/b&#62;.</p>',
  );
  expect(htmlOfPlain('https://x.example/"onclick="y')).not.toContain('"onclick');
});

import { describe, expect, test } from '@jest/globals';
import { isPermanentBounce, replyKind, withoutQuotes } from './reply.ts';

const kind = (headers: Record<string, string>, envelopeFrom = 'imani@saltmarsh.example') =>
  replyKind({ envelopeFrom, headers });

describe('what comes back', () => {
  test.each([
    ['a person’s answer', {}, 'imani@saltmarsh.example', 'reply'],
    // RFC 3834 §5: "auto-replied" and "auto-generated" are machines', "no" is a person's.
    ['RFC 3834 auto-replied', { 'auto-submitted': 'auto-replied' }, '', 'autoReply'],
    ['RFC 3834 with a parameter', { 'auto-submitted': 'auto-replied; owner-email="x@y.example"' }, 'x', 'autoReply'],
    ['RFC 3834 no', { 'auto-submitted': 'no' }, 'x@y.example', 'reply'],
    // RFC 3464 §2: multipart/report with report-type=delivery-status.
    ['RFC 3464', { 'content-type': 'multipart/report; report-type=delivery-status; boundary="b"' }, '', 'bounce'],
    // RFC 5321 §4.5.5: notifications have an empty reverse path.
    ['an empty reverse path', { subject: 'Undelivered' }, '', 'bounce'],
    ['an older vacation program', { precedence: 'auto_reply' }, 'x@y.example', 'autoReply'],
    ['RFC 3834 in capitals, with blanks', { 'auto-submitted': ' Auto-Replied ' }, 'x@y.example', 'autoReply'],
    ['RFC 3834 no, with blanks', { 'auto-submitted': ' NO ' }, 'x@y.example', 'reply'],
    ['RFC 3464 in capitals', { 'content-type': 'Multipart/Report; Report-Type=Delivery-Status' }, 'x', 'bounce'],
    ['another report', { 'content-type': 'multipart/report; report-type=disposition' }, 'x@y.example', 'reply'],
    ['a status without a report', { 'content-type': 'message/delivery-status' }, 'x@y.example', 'reply'],
    ['X-Autoreply', { 'x-autoreply': 'yes' }, 'x@y.example', 'autoReply'],
    ['X-Autorespond', { 'x-autorespond': '' }, 'x@y.example', 'autoReply'],
    ['a list', { precedence: 'bulk' }, 'x@y.example', 'autoReply'],
    ['an answer to an absence note', { subject: 'RE:out of the office' }, 'x@y.example', 'autoReply'],
    ['“Re:” and some blanks', { subject: 'Re:   Automatic reply' }, 'x@y.example', 'autoReply'],
    ['“Auto-reply”', { subject: 'Auto-reply: away' }, 'x@y.example', 'autoReply'],
    ['“Autoreply”', { subject: 'Autoreply' }, 'x@y.example', 'autoReply'],
    ['“Automatic-reply”', { subject: 'automatic-reply' }, 'x@y.example', 'autoReply'],
    ['by its subject alone', { subject: 'Out of office: back on Monday' }, 'x@y.example', 'autoReply'],
    ['a subject that speaks of it', { subject: 'Re: A question out of office hours' }, 'x@y.example', 'reply'],
  ])('%s', (_name, headers, from, expected) => {
    expect(kind(headers as Record<string, string>, from)).toBe(expected);
  });

  test('a bounce of class 5 is for good, one of class 4 is not (RFC 3463 §2)', () => {
    expect(isPermanentBounce('Action: failed\nStatus: 5.1.1')).toBe(true);
    expect(isPermanentBounce('Action: delayed\nStatus: 4.4.1')).toBe(false);
    expect(isPermanentBounce('Your message is delayed and will be retried.')).toBe(false);
    expect(isPermanentBounce('No such user here.')).toBe(true);
    expect(isPermanentBounce('Delivery was delayed.')).toBe(false);
    expect(isPermanentBounce('status:5.0.0')).toBe(true);
    expect(isPermanentBounce('Status:   4.2.2')).toBe(false);
    expect(isPermanentBounce('The old Status: 4.2.2 was delayed')).toBe(false);
    expect(isPermanentBounce('Their status: 4.2.2')).toBe(true);
  });
});

test('what somebody writes about writing is their own words, and no quotation', () => {
  for (const own of [
    'As I said, On Tides wrote:\nmore.',
    'On Monday I wrote: it is done.\nAnd it was.',
    'Look\nOn Monday she wrote: yes\nno.',
    'See what I put On the chart.\nHe wrote:\nnothing.',
  ])
    expect(withoutQuotes(own)).toBe(own);
});

test('an answer is read without what it quotes', () => {
  expect(withoutQuotes('Thank you!\r\n\r\nOn Mon, Oct 26, 2026 Dr. Ostrander wrote:\r\n> hello\r\n> again')).toBe(
    'Thank you!',
  );
  expect(withoutQuotes('Yes.\n\nOn Mon, Oct 26, 2026 at 9:30 AM\nDr. Ostrander <r@s.example> wrote:\n> hello')).toBe(
    'Yes.',
  );
  expect(withoutQuotes('Just this.')).toBe('Just this.');
  expect(withoutQuotes('  Just this. \n')).toBe('Just this.');
  expect(withoutQuotes('  > hello\n  > only quotes ')).toBe('> hello\n  > only quotes');
  expect(withoutQuotes('On Mon you wrote:\n> q\nBelow it.')).toBe('On Mon you wrote:\n> q\nBelow it.');
  expect(withoutQuotes('So.\n On Mon you wrote: \n> q')).toBe('So.');
  expect(withoutQuotes('I wrote:\nOn and on.\nThe end >')).toBe('I wrote:\nOn and on.\nThe end >');
  expect(withoutQuotes('She wrote: much.\nDone.')).toBe('She wrote: much.\nDone.');
  expect(withoutQuotes('> q\nBetween.\n> q')).toBe('Between.');
  expect(withoutQuotes('> hello\n> only quotes')).toBe('> hello\n> only quotes');
});

test.each([
  ['in German', 'Ja.\n\nAm 26.10.2026 um 09:30 schrieb Dr. O <r@s.example>:\n> hallo', 'Ja.'],
  ['in French', 'Oui.\n\nLe lun. 26 oct. 2026 à 09:30, Dr. O a écrit :\n> bonjour', 'Oui.'],
  ['in Spanish', 'Sí.\n\nEl lun, 26 oct 2026, Dr. O escribió:\n> hola', 'Sí.'],
  ['below a rule', 'Sure.\n\n-----Original Message-----\nFrom: Dr. O\n\nP1, it has been', 'Sure.'],
  ['below its headers', 'Hi,\n\nyes.\n\nFrom: Dr. O <x@y.example>\nSent: Monday\nTo: P1\n\nText', 'Hi,\n\nyes.'],
  ['above a signature', 'I am fine.\n\n-- \nP1 Lind\nStudent', 'I am fine.'],
])('an answer that is written %s is read without the rest', (_how, text, own) => {
  expect(withoutQuotes(text)).toBe(own);
});

test('words that only look like a lead are somebody’s own', () => {
  for (const own of ['From: the heart\nthank you', 'Am I late?\nHe schrieb: no', 'a -- b\nc'])
    expect(withoutQuotes(own)).toBe(own);
});

test('a text of a hundred thousand characters is read at once, whatever it is made of', () => {
  for (const part of ['>', '\n', ' ', 'On ', 'On x\n', 'wrote:', '-', 'From: a\n', 'Am a schrieb ', '\t']) {
    const from = performance.now();
    withoutQuotes(part.repeat(Math.ceil(100_000 / part.length)));
    expect(performance.now() - from).toBeLessThan(2_000);
  }
});

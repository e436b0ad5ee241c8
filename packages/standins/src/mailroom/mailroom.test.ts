import { mkdtempSync, rmSync, appendFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { DemoClock } from '../clock/demoClock.ts';
import { Letters } from './letters.ts';
import { openMailroom, type Mailroom } from './smtp.ts';

let folder: string;
let mailroom: Mailroom;
let letters: Letters;
const NOON = Date.UTC(2026, 8, 10, 16);
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-mailroom-'));
  letters = new Letters(join(folder, 'letters.jsonl'));
  mailroom = await openMailroom(letters, new DemoClock(join(folder, 'clock.json'), NOON), { port: 0 });
});
afterEach(async () => {
  await mailroom.close();
  rmSync(folder, { recursive: true, force: true });
});

/** Talks SMTP by hand (RFC 5321 §4.3.1), one line after each answer. */
async function talk(lines: readonly string[]): Promise<string[]> {
  const socket = connect(mailroom.port, '127.0.0.1');
  const answers: string[] = [];
  const queue = [...lines];
  await new Promise<void>((resolve, reject) => {
    socket.on('error', reject);
    socket.on('close', () => resolve());
    socket.on('data', (data) => {
      answers.push(data.toString());
      const next = queue.shift();
      if (next === undefined) socket.end();
      else socket.write(`${next}\r\n`);
    });
  });
  return answers;
}

test('a letter sent by SMTP lands in its mailbox, at the demo clock’s moment, with its headers', async () => {
  const answers = await talk([
    'HELO test',
    'MAIL FROM:<ada@saltmarsh.example>',
    'RCPT TO:<Imani.Okoro@saltmarsh.example>',
    'DATA',
    'From: Ada <ada@saltmarsh.example>\r\nTo: imani.okoro@saltmarsh.example\r\nSubject: =?utf-8?Q?Gr=C3=BC=C3=9Fe?=\r\n\r\nImani,\r\n\r\nhello.\r\n.',
    'QUIT',
  ]);
  expect(answers.at(-2)).toMatch(/^250 2\.0\.0 accepted/);
  expect(letters.of('imani.okoro@saltmarsh.example')).toMatchObject([
    { subject: 'Grüße', at: NOON, from: 'Ada <ada@saltmarsh.example>', firstLine: 'Imani, hello.' },
  ]);
});

test('what was accepted and read is still there after a restart, though the last line was cut off', () => {
  const letter = { at: NOON, from: 'a', subject: 's', firstLine: '', html: '', text: '', headers: [] };
  letters.add({ ...letter, id: '1', to: 'x@y.example' });
  letters.add({ ...letter, id: '2', to: 'x@y.example' });
  letters.markRead('1');
  appendFileSync(join(folder, 'letters.jsonl'), '{"letter":{"id":"3","to":"x@y.exa');
  const again = new Letters(join(folder, 'letters.jsonl'));
  expect(again.arrivals('X@Y.example')).toEqual([NOON, NOON]);
  expect([again.get('1')?.read, again.get('2')?.read, again.get('3')]).toEqual([true, false, null]);
});

test('the demo clock stands where it stood after a restart, and never goes back', () => {
  const file = join(folder, 'other.json');
  const clock = new DemoClock(file, NOON);
  clock.moveTo(NOON + 5000);
  clock.moveTo(NOON);
  expect(new DemoClock(file, 0).now()).toBe(NOON + 5000);
});

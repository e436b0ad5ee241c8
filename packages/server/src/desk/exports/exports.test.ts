// Runs on PostgreSQL too.
/** What goes out, opened by libraries that did not write it. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { unzipSync } from 'fflate';
import ExcelJS from 'exceljs';
import ICAL from 'ical.js';
import { simpleParser } from 'mailparser';
import { MboxStream } from 'node-mbox';
import Papa from 'papaparse';
import { type PassThrough, Readable } from 'node:stream';
import { finished } from 'node:stream/promises';
import request from 'supertest';
import type { ExportState, LogAnswer } from '@zest-bell/core/exchange';
import { parseRulesFile } from '@zest-bell/core/exports';
import { parseScenario, replayScenario } from '@zest-bell/core/scenario';
import { ItemRow } from '../../course/entity.ts';
import { WordingRow } from '../../wording/entity.ts';
import { storeAttachment } from '../../wording/files/repository.ts';
import { NudgeRow } from '../../mail/nudges/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { asTx } from '../../testing/asTx.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, COURSE, openStage, ruleOf, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
let smtp: TestSmtp;
const MAP = Buffer.from('%PDF-1.4 a map of the harbor');

beforeEach(async () => {
  smtp = await openSmtp();
  const people = COURSE.people.map((p) => (p.id === 'p2' ? { ...p, lastName: '=Sum' } : p));
  stage = await openStage({
    now: '2026-09-10T09:00',
    smtp: smtp.url,
    publicUrl: 'https://bell.saltmarsh.example',
    course: { people, breaks: [{ from: '2026-11-23', to: '2026-11-29', name: 'Harvest break' }] },
    rules: [ruleOf({ rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=WEEKLY;BYDAY=TH', until: '2026-12-18' } })],
  });
  const em = asTx(unguarded(stage.orm));
  const file = await storeAttachment(
    em,
    1,
    { name: 'harbor map.pdf', type: 'application/pdf', bytes: MAP },
    stage.clock.now(),
  );
  const row = await em.findOneOrFail(WordingRow, { course: 1, key: 'gentle' });
  Object.assign(row, {
    body: 'From the desk of {{ sender.name }}:\n\nhello {{ student.first_name | default: "there" }} — é.\n\n{{ sender.signature }}',
    files: [file],
    letter: { page: 'Letter', fileName: 'For {{ student.first_name }}', attach: true },
  });
  await freely(em).flush();
  await stage.tell([visit('p1', '2026-09-02T10:00'), visit('p3', '2026-09-03T10:00')]);
  ada = await stage.signIn();
  stage.clock.set(at('2026-09-10T09:31'));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

/** The file, once it is made. */
async function made(order: object): Promise<{ bytes: Buffer; name: string; state: ExportState }> {
  const started = await ada.post('/api/v1/courses/1/exports').send(order).expect(201);
  const path = `/api/v1/courses/1/exports/${(started.body as ExportState).id}`;
  for (;;) {
    const state = (await ada.get(path).expect(200)).body as ExportState;
    if (state.state === 'failed') throw new Error(state.trouble!);
    if (state.state !== 'done') continue;
    const res = await ada.get(`${path}/file`).buffer(true).parse(binary).expect(200);
    return { bytes: res.body as Buffer, name: res.headers['content-disposition'] as string, state };
  }
}
const binary = (res: unknown, done: (error: Error | null, body: Buffer) => void) => {
  const pieces: Buffer[] = [];
  const stream = res as PassThrough;
  stream.on('data', (piece: Buffer) => pieces.push(Buffer.from(piece)));
  stream.on('end', () => done(null, Buffer.concat(pieces)));
};

describe('the send log', () => {
  test('as CSV: all lines that the filters leave, in their order; what would run in a spreadsheet is guarded', async () => {
    const { bytes, name, state } = await made({ what: 'log', as: 'csvBom' });
    expect(name).toContain('NAV 120 send log.csv');
    expect(state).toMatchObject({ done: 3, total: 3, bytes: bytes.length });
    const text = bytes.toString('utf8');
    expect(text.charCodeAt(0)).toBe(0xfeff);
    const { data, errors } = Papa.parse<Record<string, string>>(text.slice(1).trim(), { header: true });
    expect(errors).toEqual([]);
    const log = (await ada.get('/api/v1/courses/1/log').expect(200)).body as LogAnswer;
    expect(data.map((r) => r['Student ID'])).toEqual(log.lines.map((l) => l.student));
    expect(data[0]).toMatchObject({ State: 'sent', 'When (America/New_York)': '2026-09-10T09:31:00', Messages: '1' });
    const filtered = await made({ what: 'log', as: 'csv', search: 'p3' });
    expect(filtered.state.total).toBe(1);
  });

  test('as a workbook: real numbers and dates', async () => {
    const { bytes } = await made({ what: 'log', as: 'xlsx' });
    const book = new ExcelJS.Workbook();
    await book.xlsx.load(bytes as unknown as ArrayBuffer);
    const rows: unknown[][] = [];
    book.worksheets[0]!.eachRow((row) => rows.push((row.values as unknown[]).slice(1)));
    expect(rows).toHaveLength(4);
    expect(rows[1]!.slice(0, 2)).toEqual([new Date('2026-09-10T09:31:00Z'), 'p3']);
    expect(rows[1]![4]).toBe(1);
    expect(rows[2]![2]).toBe('P2 =Sum');
    // The heading stays, and says what is below it.
    const [sheet] = book.worksheets;
    expect(sheet!.views[0]).toMatchObject({ state: 'frozen', ySplit: 1 });
    expect(sheet!.getRow(1).getCell(1).font.bold).toBe(true);
    expect(sheet!.getColumn(1).width).toBeGreaterThan(20);
    const place = (heading: RegExp) => rows[0]!.findIndex((cell) => heading.test(String(cell)));
    expect(rows[1]![place(/^Addresses$/)]).toBe('p3@saltmarsh.example');
    expect(rows[1]![place(/^Text$/)]).toContain('hello P3 — é.');
    expect(JSON.stringify(rows)).not.toMatch(/\/p\/\d+\./);
    expect(place(/^Student came back/)).toBeGreaterThan(0);
  });

  test('as JSON lines: each nudge with its messages, their exact text, and no link that is the student’s alone', async () => {
    const { bytes } = await made({ what: 'log', as: 'jsonl' });
    const lines = bytes.toString('utf8').trim().split('\n');
    const all = lines.map(
      (l) =>
        JSON.parse(l) as {
          student: { id: string };
          cameBackAt: string | null;
          messages: { attempts: { text: string }[] }[];
        },
    );
    expect(all.map((l) => l.student.id)).toEqual(['p3', 'p2', 'p1']);
    expect(all.map((l) => l.cameBackAt)).toEqual([null, null, null]);
    expect(all[0]!.messages[0]!.attempts[0]!.text).toContain('hello P3 — é.');
    expect(bytes.toString('utf8')).toContain('2026-09-10T09:31:00-04:00');
    expect(bytes.toString('utf8')).not.toMatch(/\/p\/\d+\./);
  });

  test('as a mail folder: read by an mbox reader and a mail parser, as it was sent, attachments included', async () => {
    const { bytes } = await made({ what: 'log', as: 'mbox' });
    expect(bytes.toString('utf8')).toMatch(/^From ada@saltmarsh\.example Thu Sep 10 13:31:00 2026\n/);
    const messages: Buffer[] = [];
    // A message a piece, as long as it flows.
    const box = MboxStream(Readable.from([bytes])).on('data', (message: Buffer) => messages.push(message));
    await finished(box);
    expect(messages).toHaveLength(3);
    const sent = await Promise.all(smtp.mails.map((m) => simpleParser(m.source)));
    for (const message of messages) {
      const mail = await simpleParser(message.toString('utf8').replace(/^>(>*From )/gm, '$1'));
      const left = sent.find((s) => s.messageId === mail.messageId)!;
      expect([mail.subject, mail.from?.text, mail.date]).toEqual([left.subject, left.from?.text, left.date]);
      const plain = (text: string | undefined) => text?.replace(/\/p\/\S+/g, '/p/…').trim();
      expect(plain(mail.text)).toBe(plain(left.text));
      expect(mail.text).toMatch(/^From the desk of/);
      expect(mail.attachments.map((a) => a.filename)).toEqual(left.attachments.map((a) => a.filename));
      expect(
        mail.attachments.map((a) => a.content.equals(left.attachments.find((l) => l.filename === a.filename)!.content)),
      ).toEqual([true, true]);
    }
  });

  test('as files of their own in an archive', async () => {
    const { bytes, name } = await made({ what: 'log', as: 'eml' });
    expect(name).toContain('NAV 120 send log messages.zip');
    const files = unzipSync(new Uint8Array(bytes));
    expect(Object.keys(files)).toHaveLength(3);
    const mail = await simpleParser(Buffer.from(files[Object.keys(files).find((n) => n.includes('P1'))!]!));
    expect(mail.to).toMatchObject({ text: expect.stringContaining('p1@saltmarsh.example') });
  });

  test('who was held back, too; a file that nobody makes of it is refused by its field', async () => {
    stage.clock.set(at('2026-09-17T09:31'));
    await runDueRounds(stage.services);
    const { bytes } = await made({ what: 'withheld', as: 'csv' });
    expect(bytes.toString('utf8').split('\r\n')[1]).toMatch(/already nudged this time/);
    const narrowed = await made({ what: 'withheld', as: 'csv', search: 'P3' });
    expect(narrowed.bytes.toString('utf8').trimEnd().split('\r\n')).toHaveLength(2);
    expect([narrowed.state.done, narrowed.state.total]).toEqual([1, 1]);
    await ada.post('/api/v1/courses/1/exports').send({ what: 'withheld', as: 'mbox' }).expect(400);
  });

  test('a file is its maker’s alone, and gone once it is forgotten', async () => {
    const started = (await ada.post('/api/v1/courses/1/exports').send({ what: 'log', as: 'csv' }).expect(201))
      .body as ExportState;
    const path = `/api/v1/courses/1/exports/${started.id}`;
    const bo = await stage.signIn('bo@saltmarsh.example');
    await bo.get(path).expect(404);
    await ada.delete(path).expect(204);
    await ada.get(path).expect(404);
    await ada.get('/api/v1/courses/1/exports/elsewhere/file').expect(404);
  });

  test('very many nudges are read page by page, each once', async () => {
    const em = unguarded(stage.orm);
    const [like] = await em.find(NudgeRow, {}, { limit: 1 });
    const rows = Array.from({ length: 1700 }, (_, i) => ({
      course: 1,
      idempotencyKey: `more ${i}`,
      rule: 'away',
      ruleVersion: 1,
      student: 'p1',
      roundAt: at('2026-09-08T09:30'),
      step: 0,
      spellStart: like!.spellStart,
      state: 'withdrawn' as const,
      reason: 'ruleOff' as const,
      toStudent: true,
      wording: 'gentle',
      evidence: [],
    }));
    await em.insertMany(NudgeRow, rows);
    const { bytes, state } = await made({ what: 'log', as: 'csv' });
    expect(state).toMatchObject({ done: 1703, total: 1703 });
    expect(bytes.toString('utf8').trim().split('\r\n')).toHaveLength(1704);
  });
});

describe('a whole course', () => {
  test('is a scenario that decides the same, also with made-up names', async () => {
    const read = async (as: string) => {
      const { bytes } = await made({ what: 'course', as });
      const parsed = parseScenario(JSON.parse(bytes.toString('utf8')));
      if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
      return { text: bytes.toString('utf8'), scenario: parsed.value };
    };
    const [own, madeUp] = [await read('scenario'), await read('madeUp')];
    expect(own.scenario.events).toHaveLength(2);
    const replay = ({ scenario }: typeof own) => replayScenario(scenario, scenario.rules, {}) as object;
    const known = new Map(madeUp.scenario.course.people.map((p, i) => [p.id, own.scenario.course.people[i]!.id]));
    const named = JSON.stringify(replay(madeUp), (_, v: unknown) => (typeof v === 'string' ? (known.get(v) ?? v) : v));
    const plain = (text: string) => text.replace(/"address":"[^"]*"/g, '').replace(/[\w.]+@[\w-]+\.example/g, '');
    expect(plain(named)).toBe(plain(JSON.stringify(replay(own))));
    expect(madeUp.text).not.toMatch(/saltmarsh|Lind/);
  });
});

test('rules and their wordings as a file, with what goes along with them, and nobody’s name', async () => {
  const res = await ada.post('/api/v1/courses/1/exports/rules').send({}).expect(200);
  expect(res.headers['content-disposition']).toContain('NAV 120 rules.json');
  const parsed = parseRulesFile(JSON.parse(res.text));
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  expect(parsed.value.rules.map((r) => r.id)).toEqual(['away']);
  expect(parsed.value.files.map((f) => Buffer.from(f.bytes, 'base64'))).toEqual([MAP]);
  expect(res.text).not.toContain('p1@');
});

describe('the calendar', () => {
  const feed = async (): Promise<string> => {
    const made = await ada.post('/api/v1/courses/1/feed').send({}).expect(201);
    return (made.body as { path: string }).path;
  };
  const eventsAt = async (path: string) => {
    const res = await request(stage.app)
      .get(path)
      .expect(200)
      .expect('content-type', /text\/calendar/);
    const calendar = new ICAL.Component(ICAL.parse(res.text) as never);
    return calendar.getAllSubcomponents('vevent').map((e) => new ICAL.Event(e));
  };

  test('has due dates, breaks and rounds of rules that are on, needs no sign-in, and names no student', async () => {
    const path = await feed();
    const events = await eventsAt(path);
    const quiz = events.find((e) => e.summary === 'Due: Tide tables quiz')!;
    expect(quiz.startDate.toJSDate().getTime()).toBe(at('2026-09-13T23:59'));
    const rest = events.find((e) => e.summary === 'Harvest break')!;
    expect([rest.startDate.toString(), rest.endDate.toString()]).toEqual(['2026-11-23', '2026-11-30']);
    expect(events.filter((e) => e.summary === 'Zest Bell: “Away” runs').length).toBeGreaterThan(10);
    expect(new Set(events.map((e) => e.uid)).size).toBe(events.length);
  });

  test('keeps its UIDs, and the number of what changed rises', async () => {
    const path = await feed();
    const before = await eventsAt(path);
    expect(before.every((e) => e.sequence === 0)).toBe(true);
    const em = unguarded(stage.orm);
    await em.nativeUpdate(ItemRow, { course: 1, key: 'q1' }, { dueAt: at('2026-09-20T23:59') });
    await em.getKnex()('course').where({ id: 1 }).increment('version');
    const after = await eventsAt(path);
    expect(after.map((e) => e.uid)).toEqual(before.map((e) => e.uid));
    expect(after.filter((e) => e.sequence === 1).map((e) => e.summary)).toEqual(['Due: Tide tables quiz']);
    expect((await eventsAt(path)).filter((e) => e.sequence > 1)).toEqual([]);
  });

  test('a new address ends the last one, and it can be ended', async () => {
    const first = await feed();
    const second = await feed();
    await request(stage.app).get(first).expect(404);
    await request(stage.app).get(second).expect(200);
    expect((await ada.get('/api/v1/courses/1/feed').expect(200)).body).toEqual({ since: stage.clock.now() });
    await ada.delete('/api/v1/courses/1/feed').expect(204);
    await request(stage.app).get(second).expect(404);
    await request(stage.app).get('/calendar/x.ics').expect(404);
  });
});

/** What goes out, from where it is seen: downloaded by the browser, and opened by libraries that did not write it. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import ExcelJS from 'exceljs';
import ICAL from 'ical.js';
import Papa from 'papaparse';
import type { CDPSession } from 'puppeteer-core';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
let session: CDPSession;
const folder = mkdtempSync(join(tmpdir(), 'zest-bell-out-'));

beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo({ place: '/c/1/students' });
  session = await scene.page.createCDPSession();
  await session.send('Browser.setDownloadBehavior', {
    behavior: 'allow',
    browserContextId: stage.context.id!,
    downloadPath: folder,
    eventsEnabled: true,
  });
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
  rmSync(folder, { recursive: true, force: true });
});

/** The next file that the browser has saved whole. */
async function saved(begin: () => Promise<void>): Promise<{ name: string; bytes: Buffer }> {
  let name = '';
  session.once('Browser.downloadWillBegin', (e) => (name = e.suggestedFilename));
  // A name in the folder is not enough: the browser holds it with an empty file first.
  const whole = new Promise<void>((resolve, reject) => {
    session.on('Browser.downloadProgress', function told({ state }) {
      if (state === 'inProgress') return;
      session.off('Browser.downloadProgress', told);
      if (state === 'completed') resolve();
      else reject(new Error('The browser gave the file up'));
    });
  });
  await begin();
  await whole;
  return { name, bytes: readFileSync(join(folder, name)) };
}
const take = (item: string, menu = 'Export') =>
  saved(async () => {
    await scene.clickText(menu, 'main button');
    await scene.clickText(item, '[role=menuitem]');
  });
const sheetOf = async (bytes: Buffer): Promise<unknown[][]> => {
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(bytes as unknown as ArrayBuffer);
  const rows: unknown[][] = [];
  book.worksheets[0]!.eachRow((row) => rows.push((row.values as unknown[]).slice(1)));
  return rows;
};

test('Lookout, the gradebook, people and items go out as they are shown', async () => {
  await scene.see('main', /42 of 42 students/);
  const lookout = await take('Workbook (XLSX)');
  expect(lookout.name).toBe('NAV 120 Students.xlsx');
  const rows = await sheetOf(lookout.bytes);
  expect(rows).toHaveLength(43);
  expect(rows[0]!.slice(0, 3)).toEqual(['ID', 'First name', 'Last name']);
  expect(rows.slice(1).some((r) => r.slice(5).some((c) => typeof c === 'number'))).toBe(true);

  await scene.go(`${stage.base}/c/1/students/gradebook`);
  await scene.see('main', /of \d+ items/);
  const book = await take('Table (CSV)');
  const { data, errors } = Papa.parse<string[]>(book.bytes.toString('utf8').trim());
  expect([book.name, data.length, errors]).toEqual(['NAV 120 gradebook.csv', 43, []]);

  await scene.go(`${stage.base}/c/1/course/people`);
  await scene.type('[aria-label="Search people"]', 'adeyemi');
  await scene.see('main', /\d of \d+ people/);
  const people = await take('Table (CSV)');
  expect(Papa.parse<string[]>(people.bytes.toString('utf8').trim()).data.length).toBeLessThan(10);

  await scene.go(`${stage.base}/c/1/course/items`);
  await scene.see('main', /\d+ items/);
  expect((await take('Table (CSV for older spreadsheets)')).bytes.toString('utf8').charCodeAt(0)).toBe(0xfeff);
});

test('the send log goes out with the filters that stand there, also as the messages that were sent', async () => {
  await scene.go(`${stage.base}/c/1/log?rule=quiet&view=sent`);
  await scene.see('main', /sent/);
  const table = await take('Workbook (XLSX)');
  expect(table.name).toBe('NAV 120 send log.xlsx');
  const rows = await sheetOf(table.bytes);
  expect(rows).toHaveLength(23);
  expect(rows[1]![0]).toBeInstanceOf(Date);
  const box = await take('Sent messages (mbox)');
  expect(box.bytes.toString('utf8').match(/^From \S+@saltmarsh\.example /gm)).toHaveLength(22);
});

test('a course goes out with made-up names, its calendar is read by another program, and its rules come into an empty course', async () => {
  await scene.go(`${stage.base}/c/1/course`);
  const course = await saved(() => scene.clickText('Export it with made-up names'));
  expect(course.name).toBe('NAV 120 course with made-up names.json');
  const scenario = JSON.parse(course.bytes.toString('utf8')) as { people: unknown[]; events: unknown[] };
  expect(scenario.people.length).toBeGreaterThan(42);
  expect(scenario.events.length).toBeGreaterThan(1000);
  expect(course.bytes.toString('utf8')).not.toMatch(/Ostrander|saltmarsh\.example/);

  await scene.go(`${stage.base}/c/1/course/calendar`);
  await scene.clickText('Create the address');
  await scene.see('main', /Copy this address now/);
  const address = await scene.read('#feed-address', (e) => e.value);
  const text = await (await fetch(address)).text();
  const events = new ICAL.Component(ICAL.parse(text) as never).getAllSubcomponents('vevent');
  expect(events.map((e) => new ICAL.Event(e).summary)).toEqual(
    expect.arrayContaining(['Due: Tide tables quiz', 'Harvest break', 'Zest Bell: “Quiet for five days” runs']),
  );
  await scene.clickText('Turn off the address');
  await scene.see('body', /no longer works/);
  expect((await fetch(address)).status).toBe(404);

  await scene.go(`${stage.base}/c/1/rules`);
  const rules = await take('Rules and wordings, to bring in elsewhere');
  expect(rules.name).toBe('NAV 120 rules.json');
  await scene.go(`${stage.base}/c/3/carry`);
  await scene.upload('input[aria-label="Choose a file of rules"]', join(folder, rules.name));
  await scene.see('main', /NAV 120 Coastal Navigation from the file NAV 120 rules\.json/);
  await scene.clickText('Carry over 6 rules');
  await scene.see('body', /Carried over 6 rules from NAV 120\. Everything is still off/);
});

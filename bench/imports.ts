/**
 * Taking in a file of activity, from its bytes to the rows, beside what the CSV parser and bare inserts reach together: `npm run
 * bench -- imports` (add L for a file ten times as long).
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'libsql';
import Papa from 'papaparse';
import { formatInstant, History, kindOfCode, knownOf, type InParts } from '@zest-bell/core';
import { LiveCourses } from '../packages/server/dist/activity/live.js';
import { applyChange } from '../packages/server/dist/changes/apply.js';
import { insertCourse } from '../packages/server/dist/course/repository.js';
import { readyDatabase } from '../packages/server/dist/database.js';
import { readImport } from '../packages/server/dist/imports/reading.js';
import { benchCourse, benchHistory, type BenchSize } from './data.ts';

function whole<T>(parts: InParts<T>): T {
  for (;;) {
    const part = parts.next();
    if (part.done) return part.value;
  }
}

export async function benchImports(size: BenchSize): Promise<void> {
  const course = benchCourse(size);
  const rows = rowsOf(course, benchHistory(course, size), size.name === 'L' ? 1_500_000 : 150_000);
  const text = `person,kind,item,at\n${rows.map((r) => r.join(',')).join('\n')}\n`;
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  const orm = await readyDatabase(join(folder, 'zest-bell.db'));
  const sender = { name: 'A', address: 'a@x.example', replyTo: 'a@x.example', signature: '', officeHours: '' };
  await orm.em.fork().transactional((em) => insertCourse(em, course, { sender, tokenHash: 'none' }));
  const now = course.calendar.end;

  const bareFrom = performance.now();
  bare(join(folder, 'bare.db'), text);
  const bareTook = performance.now() - bareFrom;

  const live = new LiveCourses();
  const bytes = Buffer.from(text);
  const from = performance.now();
  await orm.em.fork().transactional(async (em) => {
    const opened = await live.get(em, 1);
    const file = { name: 'activity.csv', content: { bytes } };
    const read = whole(
      readImport({ course: opened.course, known: knownOf(opened.facts.history), meanings: {} }, file, {
        decisions: {},
        at: now,
        now,
        retracted: new Set(),
      }),
    );
    if (read.report.refused.length > 0) throw new Error(JSON.stringify(read.report.refused[0]));
    const order = { course: 1, kind: 'import', by: 'A', now, title: 'activity.csv' } as const;
    await applyChange(em, opened.course, read.after, order, read.draft.facts);
  });
  const took = performance.now() - from;
  console.log(`A file of ${rows.length} events, ${Math.round(bytes.length / 2 ** 20)} MiB.`);
  console.log(
    `${'taken in at'.padEnd(62)} ${Math.round((100 * bareTook) / took)}% of the pace of parser and bare inserts`,
  );
  console.log(`\nPeak memory ${Math.round(process.resourceUsage().maxRSS / 1024)} MiB.`);
  await orm.close();
  rmSync(folder, { recursive: true, force: true });
}

function rowsOf(course: ReturnType<typeof benchCourse>, history: History, most: number): string[][] {
  const rows: string[][] = [];
  history.people.forEach((log, p) => {
    for (let i = 0; i < log.length && rows.length < most; i++) {
      const item = course.items[(log.codes[i]! >> 4) - 1]?.id ?? '';
      const kind = kindOfCode(log.codes[i]!);
      rows.push([course.people[p]!.id, kind, item, formatInstant(log.times[i]!, course.timeZone)]);
    }
  });
  return rows;
}

/** The parser, and the same columns written straight to a file with the same two indexes. */
function bare(file: string, text: string): void {
  const db = new Database(file);
  db.exec('pragma journal_mode = WAL');
  db.exec(
    'create table e (id integer primary key autoincrement, course integer, event_id text, person text, kind text, item text, at integer)',
  );
  db.exec('create unique index u on e (course, event_id)');
  db.exec('create index c on e (course, id)');
  const insert = db.prepare('insert into e (course, event_id, person, kind, item, at) values (1, ?, ?, ?, ?, ?)');
  db.exec('begin');
  let n = 0;
  for (const [person, kind, item, at] of Papa.parse<string[]>(text).data.slice(1)) {
    if (at !== undefined) insert.run([`e${n++}`, person, kind, item, Date.parse(at)]);
  }
  db.exec('commit');
  db.close();
}

/**
 * A file of activity brought into the running server, from its upload to its facts on disk, beside what the CSV parser and bare inserts
 * reach together; and who waits in the meantime: `/health`, a screen, and a change of another course. `npm run bench -- imports`: a million
 * rows; `npm run bench -- imports L`: three millions.
 */
import { createWriteStream, mkdtempSync, openAsBlob, rmSync, statSync } from 'node:fs';
import { createReadStream } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import Database from 'libsql';
import Papa from 'papaparse';
import { DAY, formatInstant } from '@zest-bell/core/time';
import { random } from './data.ts';
import { besideGoal } from './goals.ts';
import { at, ITEMS, memoryOf, probe, startServer } from './running.ts';

const ROWS = { S: 1_000_000, L: 3_000_000 } as const;
const STUDENTS = 2000;
const START = Date.parse('2026-01-12T05:00:00Z');
const KINDS = ['signIn', 'open', 'visit', 'post', 'practice', 'complete'];

export async function benchImports(size: { readonly name: string }): Promise<void> {
  const rows = size.name === 'L' ? ROWS.L : ROWS.S;
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  const path = join(folder, 'activity.csv');
  await write(path, rows);
  const bareFrom = performance.now();
  await bare(join(folder, 'bare.db'), path);
  const bareTook = performance.now() - bareFrom;

  const server = await startServer(join(folder, 'data'));
  try {
    const course = await server.course('BIG 1', STUDENTS);
    const other = await server.course('BIO 1', 40);
    await pause(500);
    const idle = memoryOf(server.child.pid!);
    const waits = { health: [] as number[], screen: [] as number[], change: [] as number[] };
    const watch = new AbortController();
    const watching = [
      probe(watch.signal, 10, waits.health, () => server.get('/health')),
      probe(watch.signal, 100, waits.screen, () => server.get(`/api/v1/courses/${other}/students/s1`)),
      probe(watch.signal, 250, waits.change, () =>
        server.send('PUT', `/api/v1/courses/${other}/data/folder`, { watched: false }),
      ),
    ];
    const bring = async (upload: Blob) =>
      ((await server.send('POST', `/api/v1/courses/${course}/imports?name=activity.csv`, upload)) as { id: number }).id;
    const from = performance.now();
    const id = await bring(await openAsBlob(path));
    const broughtAt = performance.now();
    await server.send('POST', `/api/v1/courses/${course}/imports/${id}/take`, {});
    const took = performance.now() - from;
    const peak = memoryOf(server.child.pid!, 'VmHWM');
    watch.abort();
    await Promise.all(watching);

    console.log(`A file of ${rows} events, ${Math.round(statSync(path).size / 2 ** 20)} MiB.`);
    const say = (what: string, value: string) => console.log(`  ${what.padEnd(66)} ${value}`);
    const pace = (100 * bareTook) / took;
    besideGoal('beside the parser and bare inserts', pace, { unit: '% of their pace', atLeast: 90 });
    say('of that time, the upload', `${Math.round((100 * (broughtAt - from)) / took)}%`);
    besideGoal('memory above that of the idle server', peak - idle, { unit: 'MiB', atMost: 250 });
    besideGoal('/health meanwhile, 99th percentile', at(waits.health, 0.99), { unit: 'ms', atMost: 20 });
    say('/health meanwhile, longest', `${at(waits.health, 1)} ms`);
    say('a screen meanwhile, 99th percentile and longest', `${at(waits.screen, 0.99)} ms, ${at(waits.screen, 1)} ms`);
    const waited = Math.max(...waits.change);
    besideGoal('a change of another course waited', (100 * waited) / took, { unit: '% of it all', atMost: 25 });
    if (rows === ROWS.S) besideGoal('… in seconds', waited / 1000, { unit: 's', atMost: 2.5 });
  } finally {
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function write(path: string, rows: number): Promise<void> {
  const next = random(7);
  const file = createWriteStream(path);
  file.write('person,kind,item,at\n');
  for (let i = 0; i < rows;) {
    let piece = '';
    for (const end = Math.min(rows, i + 5000); i < end; i++) {
      const at = Math.round(START + 110 * DAY * next() * (i / rows));
      const [who, kind, item] = [STUDENTS, KINDS.length, ITEMS].map((n) => Math.floor(next() * n)) as [
        number,
        number,
        number,
      ];
      piece += `s${who},${KINDS[kind]!},i${item},${formatInstant(at, 'America/New_York')}\n`;
    }
    if (!file.write(piece)) await once(file, 'drain');
  }
  file.end();
  await once(file, 'finish');
}

/** The parser, and the same columns written straight to a file with the same two indexes. */
async function bare(file: string, path: string): Promise<void> {
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
  await new Promise<void>((done, failed) => {
    Papa.parse<string[]>(createReadStream(path), {
      step({ data: [person, kind, item, at] }) {
        if (n++ > 0 && at !== undefined) insert.run([`e${n}`, person, kind, item, Date.parse(at)]);
      },
      complete: () => done(),
      error: failed,
    });
  });
  db.exec('commit');
  db.close();
}

// Runs on PostgreSQL too.
/** What one database has, the other has after a move, in every table and column; and back as a backup. */
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { EntityProperty } from '@mikro-orm/core';
import { backUp } from './backup.ts';
import { CourseRow } from '../course/entity.ts';
import { fileIn, movedMark, mustBeWhole, openDatabase, readyDatabase } from '../wiring/database.ts';
import { WorkerRow } from '../mail/outbox/entity.ts';
import { makeWorkerId } from '../mail/outbox/worker.ts';
import { moveDatabase } from './moving.ts';
import type { Orm } from '../platform/database/orm.ts';
import { insertAsStored, rowsOf } from '../platform/database/query.ts';
import { tableNames } from '../platform/database/tables.ts';
import { bareDatabase, isOnPostgres, nameDatabase, placeIn } from '../testing/database.ts';
import { openSmtp } from '../testing/smtp.ts';
import { classOf, openStage, ruleOf } from '../testing/stage.ts';
import { until } from '../testing/until.ts';
import { MessageRow } from '../mail/nudges/entity.ts';
import { RuleRow } from '../rules/entity.ts';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';
import { unguarded, freely } from '../testing/unguarded.ts';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-moving-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));
const onPostgres = isOnPostgres ? test : test.skip;

/** A value that a column takes, another for each row; long, with letters of all kinds, and now and then none. */
function valueOf({ name, runtimeType, columnTypes, nullable, customType }: EntityProperty, n: number): unknown {
  if (nullable && n % 3 === 0) return null;
  if (runtimeType === 'boolean') return n % 2 === 0;
  if (/blob/.test(columnTypes[0]!)) return Buffer.from([0, n % 256, 255, 39, 92]);
  if (/double/.test(columnTypes[0]!)) return n / 7;
  if (/int/.test(columnTypes[0]!)) return 1_500_000_000_000 + n;
  if (columnTypes[0] === 'json') return JSON.stringify({ z: n, a: ['é', '“\\”', null, 1.5], long: 'x'.repeat(400) });
  const values = (customType as { values?: ReadonlySet<string> } | undefined)?.values;
  return values ? [...values][n % values.size] : `${name} ${n} Zoë 'quoted' \\ back\nslash 🔔 ${'y'.repeat(300)}`;
}

/** Some rows of every table. */
async function fill(orm: Orm, rows: number): Promise<void> {
  const em = unguarded(orm);
  for (const meta of Object.values(orm.getMetadata().getAll())) {
    for (let n = 1; n <= rows; n++) {
      const values = meta.props.map((p) => [
        p.fieldNames[0]!,
        p.primary && /int/.test(p.columnTypes[0]!) ? n : valueOf(p, n),
      ]);
      await insertAsStored(em, meta.tableName, [Object.fromEntries(values)]);
    }
  }
}

async function everything(orm: Orm): Promise<Map<string, string>> {
  const em = unguarded(orm);
  const all = new Map<string, string>();
  for (const name of (await tableNames(em)).filter((t) => t !== 'mikro_orm_migrations')) {
    const rows = await rowsOf<Record<string, unknown>>(em, em.getKnex()(name).select('*'));
    const isBytes = (value: unknown) => ArrayBuffer.isView(value) || String(value) === '[object ArrayBuffer]';
    const alike = (value: unknown) =>
      typeof value === 'boolean' ? Number(value) : isBytes(value) ? [...Buffer.from(value as Uint8Array)] : value;
    const texts = rows.map((r) =>
      JSON.stringify(
        Object.entries(r)
          .toSorted()
          .map(([k, v]) => [k, alike(v)]),
      ),
    );
    all.set(name, texts.toSorted().join('\n'));
  }
  return all;
}

onPostgres('every table comes over as it was, ids go on from there, and the folder starts no more', async () => {
  const source = await readyDatabase(fileIn(folder));
  await fill(source, 9);
  const before = await everything(source);
  await source.close();
  const url = await bareDatabase();
  const { rows } = await moveDatabase(folder, url);
  expect(rows).toBe(9 * before.size);
  const target = await openDatabase(url);
  const after = await everything(target);
  for (const [table, text] of before) expect([table, after.get(table)]).toEqual([table, text]);
  const em = target.em.fork();
  const course = freely(em).create(CourseRow, {
    ...(await em.findOneOrFail(CourseRow, { id: 9 })),
    id: undefined,
  } as unknown as CourseRow);
  await freely(em).flush();
  expect(course.id).toBe(10);
  await target.close();
  expect(existsSync(movedMark(folder))).toBe(true);
  await expect(mustBeWhole(folder)).rejects.toThrow(/was moved to another database[^]*ZEST_DATABASE_URL/);
  await expect(moveDatabase(folder, url)).rejects.toThrow('was moved before');

  // A backup is one file with its mail stopped; it can be moved to another database.
  const file = join(folder, 'backup.db');
  await backUp(url, file, 77);
  const copy = await openDatabase(file);
  const kept = await everything(copy);
  for (const [table, text] of after) {
    if (table === 'worker' || table === 'message') continue;
    if (table === 'course') expect((await copy.em.fork().find(CourseRow, { copyFrom: 77 })).length).toBe(10);
    else expect([table, kept.get(table)]).toEqual([table, text]);
  }
  await copy.close();
});

onPostgres(
  'refuses a database with something in it, a folder that somebody works on, and one without a database',
  async () => {
    const source = await readyDatabase(fileIn(folder));
    await freely(source.em.fork()).insert(WorkerRow, { id: makeWorkerId(), aliveAt: Date.now() });
    await source.close();
    const url = await bareDatabase();
    // This process's own number counts as living.
    await expect(moveDatabase(folder, url)).rejects.toThrow('at work on this folder');
    const again = await openDatabase(fileIn(folder));
    await freely(again.em.fork()).nativeDelete(WorkerRow, {});
    await again.close();
    const used = await readyDatabase(url);
    await freely(used.em.fork()).insert(WorkerRow, { id: 'there', aliveAt: 1 });
    await expect(moveDatabase(folder, url)).rejects.toThrow('not empty: there is something in its table “worker”');
    expect(existsSync(movedMark(folder))).toBe(false);
    await used.close();
    await expect(moveDatabase(join(folder, 'none'), url)).rejects.toThrow('There is no database');
  },
);

test('a folder that was moved says where to, and how to go on', async () => {
  writeFileSync(movedMark(folder), 'zest_bell\n');
  await expect(mustBeWhole(folder)).rejects.toThrow(/\(zest_bell\)[^]*send a second time/);
  expect(readFileSync(movedMark(folder), 'utf8')).toBe('zest_bell\n');
});

test('a backup that is taken while mail leaves, and what is started from it, send nothing twice', async () => {
  const smtp = await openSmtp();
  const students = 12;
  const stage = await openStage({
    now: '2026-09-05T09:30',
    smtp: smtp.url,
    course: { people: classOf(students) },
    rules: [ruleOf({ rhythm: { start: '2026-09-01T09:30', rrule: 'FREQ=DAILY' } })],
  });
  // Some have left, some are on their way and some wait at the moment of the backup.
  smtp.most = 4;
  await unguarded(stage.orm).nativeUpdate(RuleRow, {}, { nextRoundAt: stage.clock.now() });
  await runDueRounds(stage.services);
  const drained = stage.dispatcher.drain();
  await until(() => smtp.mails.length === 4);
  const file = join(folder, 'backup.db');
  await backUp(placeIn(stage.folder), file, stage.clock.now());
  smtp.most = Infinity;
  await drained;
  await stage.close();
  expect(smtp.mails).toHaveLength(students);

  const restored = join(folder, 'restored');
  mkdirSync(restored);
  copyFileSync(file, fileIn(restored));
  if (isOnPostgres) {
    const url = await bareDatabase();
    await moveDatabase(restored, url);
    nameDatabase(restored, url);
  }
  const again = await openStage({ now: '2026-09-05T09:31', smtp: smtp.url, folder: restored });
  await again.dispatcher.drain();
  expect(smtp.mails).toHaveLength(students);
  const states = async () => (await unguarded(again.orm).find(MessageRow, {})).map((m) => m.state);
  const found = await states();
  expect(found.filter((s) => s === 'sent').length).toBeGreaterThanOrEqual(1);
  // What was on its way is for the instructor to settle, and so is, by their choice, what waited.
  expect(found.filter((s) => s === 'uncertain').length).toBeGreaterThanOrEqual(1);
  const ada = await again.signIn();
  await ada.post('/api/v1/courses/1/mail/start').send({ queued: 'unclear', missed: 'skip' }).expect(200);
  expect(await states()).not.toContain('queued');
  expect(smtp.mails).toHaveLength(students);
  await again.close();
  await smtp.close();
});

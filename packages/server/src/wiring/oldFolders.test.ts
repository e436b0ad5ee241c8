/**
 * Data folders of earlier releases, as `testing/old` holds them: a class of three, five rounds, a reply, a note, a pin, an edit. Each was
 * written by the server of that release through the calls of its own tests, and dumped without its sessions and workers.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { LogAnswer } from '@zest-bell/core/exchange';
import { openDatabase, readyDatabase } from './database.ts';
import type { Em } from '../platform/database/orm.ts';
import { countOf } from '../platform/database/query.ts';
import { tableNames } from '../platform/database/tables.ts';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../testing/smtp.ts';
import { at, openStage, type TestStage } from '../testing/stage.ts';

let folder: string;
let smtp: TestSmtp;
let stage: TestStage | null;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-old-'));
  smtp = await openSmtp();
  stage = null;
});
afterEach(async () => {
  await stage?.close();
  await smtp.close();
  rmSync(folder, { recursive: true, force: true });
});

const dump = (version: string) => join(import.meta.dirname, '..', 'testing', 'old', `${version}.sql`);

/** Until 0.9 a reply that was passed on was kept with the reply; since then it is a mail of its own. */
const MOVED: Readonly<Record<string, Readonly<Record<string, number>>>> = { '0.8.1': { message: 4, plain_mail: 1 } };

async function countsOf(em: Em): Promise<Record<string, number>> {
  const counts: Record<string, number> = {};
  for (const table of await tableNames(em))
    if (table !== 'mikro_orm_migrations') counts[table] = await countOf(em, em.getKnex()(table));
  return counts;
}

describe.each(['0.8.1', '0.19.0'])('a data folder of %s', (version) => {
  test('has the same rows in every table once it is brought up to date', async () => {
    const file = join(folder, 'zest-bell.db');
    const old = await openDatabase(file);
    await old.em.getConnection().loadFile(dump(version));
    const before = await countsOf(old.em.fork());
    await old.close();
    const now = await readyDatabase(file);
    const after = await countsOf(now.em.fork());
    await now.close();
    expect(before).toMatchObject({ person: 4, nudge: 3, reply: 1, rule: 3, rule_round: 10, note: 1, pin: 1, grade: 1 });
    expect(after).toMatchObject({ ...before, ...MOVED[version] });
  });

  test('shows what it showed, lets its people in, and goes on without sending anything twice', async () => {
    const file = join(folder, 'zest-bell.db');
    const old = await openDatabase(file);
    await old.em.getConnection().loadFile(dump(version));
    await old.close();
    await (await readyDatabase(file)).close();
    stage = await openStage({ folder, now: '2026-09-09T12:00', smtp: smtp.url, answers: 'server' });
    const ada = await stage.signIn();
    const log = async () => (await ada.get('/api/v1/courses/1/log').expect(200)).body as LogAnswer;
    const { lines, counts } = await log();
    expect(lines.map((l) => [l.student, l.state, l.answered, l.studentName])).toEqual([
      ['p2', 'held', null, 'P2 Lind'],
      ['p2', 'sent', null, 'P2 Lind'],
      ['p1', 'sent', 'reply', 'P1 Lind'],
    ]);
    expect(counts).toMatchObject({ all: 3, sent: 2, held: 1 });
    const { body: course } = await ada.get('/api/v1/courses/1').expect(200);
    expect((course as { people: unknown[]; items: unknown[] }).people).toHaveLength(4);
    await ada.get('/api/v1/courses/1/students/p1').expect(200);
    const { body: notes } = await ada.get('/api/v1/courses/1/students/p1/notes').expect(200);
    expect(notes).toEqual([expect.objectContaining({ text: 'Called' })]);
    expect((await ada.get('/api/v1/courses/1/rules').expect(200)).body).toHaveLength(3);

    stage.clock.set(at('2026-09-10T09:30'));
    await runDueRounds(stage.services);
    await stage.dispatcher.drain();
    // Only who came to match since then: one nudge a spell.
    expect(smtp.mails.map((m) => m.to[0])).toEqual(['p3@saltmarsh.example']);
    expect((await log()).counts).toMatchObject({ sent: 3, held: 1 });
  });
});

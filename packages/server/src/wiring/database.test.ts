/** A database of an earlier release is brought up to date with what is in it. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@jest/globals';
import { prove } from '../access/links.ts';
import { voiceMustBeProven } from '../course/senderProof.ts';
import { sendersFromBefore } from '../desk/people/sendersFromBefore.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { NOTHING_FIXED } from '../platform/services.ts';
import { SENDER } from '../testing/stage.ts';
import { MessageRow, NudgeRow } from '../mail/nudges/entity.ts';
import { PlainMailRow } from '../mail/plainMail/entity.ts';
import { RoundRow } from '../rounds/deciding/entity.ts';
import { RuleRow, RuleVersionRow } from '../rules/entity.ts';
import { openDatabase, readyDatabase } from './database.ts';
import { unguarded } from '../testing/unguarded.ts';
import { asTx } from '../testing/asTx.ts';

test('rounds, leads, subjects and statuses of before are there in their new places', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-migration-'));
  const file = join(folder, 'zest-bell.db');
  const old = await openDatabase(file);
  await old.getMigrator().up({ to: 'Migration20261125082801' });
  const sql = (text: string) => old.em.getConnection().execute(text);
  const results = JSON.stringify([
    { rule: 'a', version: 1, matched: 3, heard: 2, held: 0, withheld: 1, withdrawn: 0, missed: [5] },
    { rule: 'b', version: 2, matched: 0, heard: 0, held: 0, withheld: 0, withdrawn: 0, missed: [] },
  ]);
  await sql(
    `insert into round (course, at, "trigger", claim, results) values (1, 10, 'regular', '1:at:10', '${results}')`,
  );
  await sql(`insert into rule (course, key, position, status, version, format, document, changed_at)
    values (1, 'a', 0, 'on', 1, 1, '{"id":"a","status":"paused"}', 1)`);
  await sql(
    `insert into rule_version (rule, version, document, saved_at) values (1, 1, '{"id":"a","status":"paused"}', 1)`,
  );
  await sql(`insert into nudge (course, idempotency_key, rule, rule_version, student, round_at, step, spell_start, state, to_student, wording, evidence)
    values (1, 'k', 'a', 1, 'p1', 10, 0, 1, 'held', true, 'w', '[]')`);
  for (const kind of ['instructor', 'student']) {
    await sql(
      `insert into message (nudge, course, kind, name, address, state, send_at) values (1, 1, '${kind}', '', '', 'held', 10)`,
    );
  }
  for (const [message, subject] of [
    [1, 'About P1'],
    [2, 'Hello'],
  ] as const) {
    await sql(`insert into attempt (course, message, nudge, at, outcome, response, message_id, recipient_name, address, from_address, reply_to, subject, body, html, evidence)
      values (1, ${message}, 1, ${10 + message}, 'transient', '', '', '', '', '', '', '${subject}', '', '', '[]')`);
  }
  await old.close();

  const orm = await readyDatabase(file);
  const em = unguarded(orm);
  expect((await em.find(RoundRow, {}, { orderBy: { id: 'asc' } })).map((r) => [r.rule, r.heard, r.missed])).toEqual([
    ['a', 2, [5]],
    ['b', 0, []],
  ]);
  expect((await em.find(MessageRow, {})).map((m) => [m.kind, m.lead, m.heldFor])).toEqual([
    ['instructor', false, 'step'],
    ['student', true, 'step'],
  ]);
  expect(await em.findOneOrFail(NudgeRow, { id: 1 })).toMatchObject({ subject: 'Hello', lastAt: 12 });
  expect(await em.findOneOrFail(RuleRow, { id: 1 })).toMatchObject({ status: 'on', document: { id: 'a' } });
  expect(await em.findOneOrFail(RuleVersionRow, { id: 1 })).toMatchObject({ status: 'paused', document: { id: 'a' } });
  await orm.close();
  rmSync(folder, { recursive: true, force: true });
});

test('what was passed on, answered or summed up before waits in the one outbox, in the state it was in', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-migration-'));
  const file = join(folder, 'zest-bell.db');
  const old = await openDatabase(file);
  await old.getMigrator().up({ to: 'Migration20261127160019' });
  const sql = <T = unknown>(text: string) => old.em.getConnection().execute<T[]>(text);
  const columns = await sql<{ name: string; type: string; notnull: number }>('pragma table_info(course)');
  const needed = columns.filter((c) => c.notnull && !['id', 'sender'].includes(c.name));
  await sql(`insert into course (sender, ${needed.map((c) => c.name).join(', ')})
    values ('{"name":"Dr. A. Lind","replyTo":"office@saltmarsh.example"}', ${needed.map((c) => (c.type === 'text' ? "''" : c.type === 'json' ? "'[]'" : 0)).join(', ')})`);
  for (const [i, [state, at]] of [
    ['queued', 70],
    [null, null],
  ].entries()) {
    await sql(`insert into reply (course, nudge, kind, at, message_id, from_name, from_address, subject, text, forward, forward_at, attempts)
      values (1, 4, 'reply', 60, 'm${i}', 'P1', 'p1@saltmarsh.example', 'Re', 'Hi', ${state ? `'${state}'` : 'null'}, ${at}, 2)`);
  }
  await sql(`insert into plain_mail (kind, course, reply, nudge, "by", at, to_name, to_address, subject, text, message_id, forward, forward_at, attempts)
    values ('answer', 1, 2, 4, 'Ada', 50, 'P1', 'p1@saltmarsh.example', 'Re', 'See you', '<a>', 'sent', 55, 1)`);
  await old.close();

  const orm = await readyDatabase(file);
  const em = unguarded(orm);
  const kinds = new Map((await em.find(PlainMailRow, {})).map((p) => [p.id, p.kind]));
  const waiting = (await em.find(MessageRow, { nudge: null }, { orderBy: { id: 'asc' } })).map((m) => ({
    ...m,
    what: kinds.get(m.plainMail!),
  }));
  expect(waiting).toMatchObject([
    { what: 'answer', kind: 'student', address: 'p1@saltmarsh.example', state: 'sent', sendAt: 55, settledAt: 55 },
    {
      what: 'forward',
      kind: 'instructor',
      address: 'office@saltmarsh.example',
      state: 'queued',
      sendAt: 70,
      attempts: 2,
    },
  ]);
  await orm.close();
  rmSync(folder, { recursive: true, force: true });
});

/** The last migration of each release that had others than the one before. On PostgreSQL the first release is 0.19.0. */
const RELEASES = {
  '0.3.0': 'Migration20261125181921',
  '0.4.0': 'Migration20261125214820',
  '0.5.0': 'Migration20261126013842',
  '0.6.0': 'Migration20261126150654',
  '0.7.0': 'Migration20261126174316',
  '0.9.0': 'Migration20261127094601',
  '0.10.0': 'Migration20261127143259',
  '0.11.0': 'Migration20261127160019',
  '0.12.0': 'Migration20261127203321',
  '0.13.0': 'Migration20261127233957',
  '0.14.0': 'Migration20261128042549',
  '0.15.0': 'Migration20261128085240',
  '0.16.0': 'Migration20261128115803',
  '0.17.0': 'Migration20261128152952',
  '0.18.0': 'Migration20261128191915',
};

test.each(Object.entries(RELEASES))(
  'a database of %s is brought up to date with its course and its mail',
  async (_release, to) => {
    const folder = mkdtempSync(join(tmpdir(), 'zest-bell-migration-'));
    const file = join(folder, 'zest-bell.db');
    const old = await openDatabase(file);
    await old.getMigrator().up({ to });
    const sql = <T = unknown>(text: string) => old.em.getConnection().execute<T[]>(text);
    /** A row of which only this is of interest; the rest is empty. */
    const insert = async (table: string, known: Readonly<Record<string, string | number>>) => {
      const columns = await sql<{ name: string; type: string; notnull: number; dflt_value: unknown; pk: number }>(
        `pragma table_info(${table})`,
      );
      const there = columns.filter((c) => c.name in known || (c.notnull && c.dflt_value === null && !c.pk));
      const valueOf = ({ name, type }: { name: string; type: string }) => {
        const value = known[name] ?? (type === 'json' ? '[]' : type === 'text' ? '' : 0);
        return typeof value === 'string' ? `'${value}'` : value;
      };
      const names = there.map((c) => `"${c.name}"`).join(', ');
      await sql(`insert into ${table} (${names}) values (${there.map(valueOf).join(', ')})`);
    };
    const sender = '{"name":"Dr. A. Lind","address":"ada@saltmarsh.example","replyTo":"ada@saltmarsh.example"}';
    await insert('course', {
      code: 'NAV 120',
      title: 'Coastal Navigation',
      start: '2026-08-31',
      end: '2026-12-18',
      sender,
    });
    await insert('person', { course: 1, key: 'p1', email: 'p1@saltmarsh.example', role: 'student' });
    const about = { course: 1, nudge: 1, address: 'p1@saltmarsh.example' };
    // One may have left when the server was killed; the other was claimed and had no row of the log yet.
    for (const claimed_by of ['begun', 'not begun'])
      await insert('message', { ...about, kind: 'student', state: 'handing', claimed_by });
    await insert('attempt', { ...about, message: 1, outcome: 'handing' });
    await old.close();

    const orm = await readyDatabase(file);
    expect(await orm.schema.getUpdateSchemaSQL()).toBe('');
    const em = unguarded(orm);
    expect(await em.getConnection().execute('select code, title from course')).toEqual([
      { code: 'NAV 120', title: 'Coastal Navigation' },
    ]);
    expect(await em.getConnection().execute('select "key", email from person')).toEqual([
      { key: 'p1', email: 'p1@saltmarsh.example' },
    ]);
    const mail = await em.find(MessageRow, {}, { orderBy: { id: 'asc' } });
    expect(mail.map((m) => [m.state, m.claimedBy, m.begunAt !== null])).toEqual([
      ['handing', 'begun', true],
      ['handing', 'not begun', false],
    ]);
    await orm.close();
    rmSync(folder, { recursive: true, force: true });
  },
);

test('senders of 0.19.0 go on as they are, and are listed as not proven', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-migration-'));
  const file = join(folder, 'zest-bell.db');
  const old = await openDatabase(file);
  await old.getMigrator().up({ to: 'Migration20261129070949' });
  const run = (text: string) => old.em.getConnection().execute(text);
  const sender = JSON.stringify({ ...SENDER, name: 'Dr. A. Lind' });
  await run(
    `insert into account (id, email, name, password_hash, created_at) values (1, 'ada@saltmarsh.example', 'Ada', 'x', 0)`,
  );
  await run(
    `insert into course (id, code, title, time_zone, start, end, breaks, marks, settings, sender)
     values (1, 'NAV 120', 'Coastal Navigation', 'UTC', '2026-08-31', '2026-12-18', '[]', '{}', '{}', '${sender}')`,
  );
  await run(`insert into access (account, course, role) values (1, 1, 'owner')`);
  await old.close();
  const orm = await readyDatabase(file);
  const em = unguarded(orm);
  // Turning a rule on and writing by hand ask this.
  await voiceMustBeProven(em, { id: 1, fixed: NOTHING_FIXED }, 1);
  expect(await sendersFromBefore(em)).toMatchObject([
    { course: { code: 'NAV 120' }, account: { id: 1 }, addresses: [SENDER.address, SENDER.replyTo] },
  ]);
  await inTransaction(orm, (tx) => prove(asTx(tx), 1, SENDER.address, 'administrator'));
  expect(await sendersFromBefore(unguarded(orm))).toMatchObject([{ addresses: [SENDER.replyTo] }]);
  await orm.close();
  rmSync(folder, { recursive: true, force: true });
});

/** A database of an earlier release is brought up to date with what is in it. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@jest/globals';
import { MessageRow, NudgeRow } from './mail/nudges/entity.ts';
import { PlainMailRow } from './mail/plainMail/entity.ts';
import { RoundRow } from './rounds/entity.ts';
import { RuleRow, RuleVersionRow } from './rules/entity.ts';
import { openDatabase, readyDatabase } from './database.ts';

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
  const em = orm.em.fork();
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
  const em = orm.em.fork();
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

// Runs on PostgreSQL too.
/**
 * Looks through everything: each table and folder is declared, and a student who is in every column that may hold one is found nowhere
 * once they are erased, nor is anybody once their course is forgotten.
 */
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { JsonType } from '@mikro-orm/core';
import { accountActor } from '@zest-bell/core/access';
import { CourseRow } from '../course/entity.ts';
import { folderOf, KEPT_FOLDERS } from '../intake/imports/folder.ts';
import { ImportRow } from '../intake/changes/importRow.ts';
import { StatementRow } from '../intake/statements/entity.ts';
import { AttemptRow } from '../mail/nudges/attempt.ts';
import { MessageRow } from '../mail/nudges/entity.ts';
import type { ColumnDeclaration, Holds } from '../platform/database/holds.ts';
import type { Em } from '../platform/database/orm.ts';
import { rowsOf } from '../platform/database/query.ts';
import { tableNames } from '../platform/database/tables.ts';
import { COURSE as PARTS, openStage, type TestStage } from '../testing/stage.ts';
import { ExportRow } from '../desk/exports/entity.ts';
import { declarations } from './declarations.ts';
import { dataOf } from './data.ts';
import { beginErasing, goOn } from './erase.ts';
import { forgetOld } from './retention.ts';
import { erasedStudent } from './named.ts';
import { keyOf, knownIn, propertyOf, tableOf } from './rowsOf.ts';
import { STORES } from './stores.ts';
import { unguarded } from '../testing/unguarded.ts';

/** Names that occur nowhere else. */
const WHO = { id: 'zq-4711-x', firstName: 'Zebulon', lastName: 'Quillfeather', email: 'zebulon@quill.example' };
const NAME = `${WHO.firstName} ${WHO.lastName}`;
const TEXT = `${NAME} (${WHO.email}) is ${WHO.id}`;

let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({
    now: '2026-09-10T09:00',
    course: { people: PARTS.people.map((p) => (p.id === 'p1' ? { ...p, ...WHO } : p)) },
  });
});
afterEach(() => stage.close());

const RULE = { name: `Write to ${NAME}`, audience: { roles: ['student'], except: [WHO.id, 'p2'] } };
const ITEM = { id: 'q1', title: TEXT, excused: [WHO.id, 'p2'], extensions: [{ person: WHO.id, dueAt: 1 }] };
const DECISIONS = { choices: { people: { [NAME.toLowerCase()]: WHO.id }, items: {} } };

/** The contents of columns with structured values, by table and column. */
const SHAPED: Readonly<Record<string, unknown>> = {
  'act.about': { student: WHO.id },
  'activity_segment.columns': Buffer.from(TEXT),
  'course_change.changes': {
    people: [{ id: WHO.id, before: null, after: WHO }],
    items: [{ id: 'q1', before: null, after: ITEM }],
    details: null,
    order: null,
  },
  'course_set_version.document': RULE,
  'import.decisions': DECISIONS,
  'import.report': { kind: 'roster', counts: {}, refused: [{ row: 2, message: TEXT }] },
  'import_bytes.bytes': Buffer.from(TEXT),
  'import_memory.decisions': DECISIONS,
  'item.excused': ITEM.excused,
  'item.extensions': ITEM.extensions,
  'mailing.outside': [WHO.email, 'x@elsewhere.example'],
  'mailing.rows': { [WHO.id]: { note: TEXT }, p2: { note: `with ${NAME}` } },
  'rule.document': RULE,
  'rule.drafted': { document: RULE, version: 1, by: 1, at: 1 },
  'rule.outside': [WHO.email],
  'rule_version.document': RULE,
  'sheet.rows': [[NAME, 'theirs'], ['p2', 'others'], [WHO.id]],
  'source.last': { refused: [{ id: 'elsewhere-17', why: TEXT }], refusedInAll: 1 },
  'statement.actor': `account https://lms.example ${WHO.id}`,
};

/** What has to be so that the rest of the server takes the rows for its own. */
const SET: Readonly<Record<string, unknown>> = {
  'message.state': 'sent',
  'nudge.state': 'sent',
  'import.state': 'taken',
  'import.file': null,
  'source_link.kind': 'person',
  'session.data': '{}',
  'launch_code.session': {},
};

/** Which column leads to the row of which table. */
const LEADS: Readonly<Record<string, string>> = {
  'message.nudge': 'nudge',
  'attempt.nudge': 'nudge',
  'attempt.message': 'message',
  'reply.nudge': 'nudge',
  'plain_mail.nudge': 'nudge',
  'import_bytes.import': 'import',
  'rule_version.rule': 'rule',
  'source_link.source': 'source',
};

let serial = 0;

/** A value of the sort that a column holds; where it `knows` them, their own. */
function valueOf(em: Em, of: Holds, column: string, { kind }: ColumnDeclaration, knows: boolean): unknown {
  const property = propertyOf(em, of, column);
  const isJson = property.customType instanceof JsonType;
  const { values } = (property.customType ?? {}) as { readonly values?: ReadonlySet<string> };
  serial++;
  if (kind === 'personId') return knows ? WHO.id : 'p2';
  if (knows && isJson) return { said: TEXT, all: [TEXT] };
  if (knows && property.runtimeType === 'string') return `${TEXT} ${serial}`;
  if (values) return [...values][0];
  if (isJson) return {};
  if (property.runtimeType === 'string') return `x${serial}`;
  if (property.runtimeType === 'boolean') return false;
  if (property.runtimeType === 'Buffer') return Buffer.from('x');
  return serial;
}

const KNOWS_NOBODY = ['key', 'plain', 'account'];

/** A row in every table. `isAbout`: about them, in every column that may hold a person; otherwise about another, with words that name them. */
async function fillTables(isAbout: boolean): Promise<ReadonlyMap<string, number>> {
  const em = unguarded(stage.orm);
  const made = new Map<string, number>();
  const tables = new Map(declarations.map((of) => [tableOf(em, of), of]));
  // Rows that others lead to come first.
  const first = ['nudge', 'plain_mail', 'message', 'import', 'rule', 'source'];
  for (const table of [...first, ...[...tables.keys()].filter((t) => !first.includes(t))]) {
    if (['course', 'person', 'erased', 'installation', 'account', 'access'].includes(table)) continue;
    const of = tables.get(table)!;
    // There is one for each course, or for all.
    if (!isAbout && (propertyOf(em, of, Object.keys(of.columns)[0]!).name === 'course' || of.course === null)) continue;
    const row: Record<string, unknown> = {};
    for (const [column, what] of Object.entries(of.columns)) {
      const place = `${table}.${column}`;
      const knows = isAbout ? !KNOWS_NOBODY.includes(what.kind) && what.stays === undefined : Boolean(what.searched);
      if (place in LEADS) row[column] = made.get(LEADS[place]!);
      else if (place in SHAPED && knows && (isAbout || !place.startsWith('statement'))) row[column] = SHAPED[place];
      else if (place in SET) row[column] = SET[place];
      else if (column === 'course') row[column] = 1;
      else if (column !== 'id' || propertyOf(em, of, column).runtimeType === 'string')
        row[column] = valueOf(em, of, column, what, knows);
    }
    made.set(table, (await em.insert(of.entity, row)) as number);
  }
  return made;
}

async function fillEverything(): Promise<void> {
  const em = unguarded(stage.orm);
  const made = await fillTables(true);
  await fillTables(false);
  const other = {
    course: 1,
    message: 999,
    nudge: null,
    at: 1,
    outcome: 'sent',
    response: '',
    recipientName: 'Advisor',
  };
  const { messageId } = await em.findOneOrFail(AttemptRow, { nudge: made.get('nudge') as number });
  // One mail about several students, in the log of another one, and an answer beside the nudge.
  await em.insert(AttemptRow, {
    ...other,
    messageId,
    address: 'adviser@x.example',
    fromAddress: 'a@x.example',
    replyTo: '',
    evidence: [],
    subject: TEXT,
    body: TEXT,
    html: TEXT,
  } as never);
  await em.nativeUpdate(MessageRow, { id: made.get('message') as number }, { plainMail: null });
  await em.nativeUpdate(
    CourseRow,
    { id: 1 },
    {
      meanings: { people: { 'mailto:zeb@elsewhere.example': WHO.id } },
      breaks: [{ from: '2026-11-23', to: '2026-11-29', name: `Leave of ${NAME}` }],
    },
  );
  const { folder, exporting, brought } = stage.services;
  const inbox = folderOf(folder, await em.findOneOrFail(CourseRow, { id: 1 }));
  for (const name of KEPT_FOLDERS) {
    mkdirSync(join(inbox, name), { recursive: true });
    writeFileSync(join(inbox, name, 'roster.csv'), `id,name\n${WHO.id},${NAME}\n`);
    writeFileSync(join(inbox, name, 'book.xlsx'), Buffer.from([0x50, 0x4b, 3, 4, 0, 0, 0xff]));
    writeFileSync(join(inbox, name, 'others.csv'), 'id,name\np2,P2 Lind\n');
  }
  mkdirSync(exporting, { recursive: true });
  const exported = await em.findOneOrFail(ExportRow, { course: 1 });
  writeFileSync(join(exporting, exported.id), TEXT);
  const file = await brought.receive(Buffer.from(TEXT));
  await em.insert(ImportRow, {
    course: 1,
    by: accountActor(1),
    name: 'open.csv',
    at: 1,
    state: 'open',
    way: 'hand',
    decisions: {},
    file,
  });
}

const QUOTED = (text: string) =>
  [...Buffer.from(text)].map((byte) => `=${byte.toString(16).toUpperCase().padStart(2, '0')}`).join('');
/** What tells who they are, in each way in which a text may be written. */
const NEEDLES = [NAME, WHO.email, WHO.id].flatMap((told) => [
  told,
  encodeURIComponent(told),
  QUOTED(told),
  // Wherever it begins within a longer text.
  ...[0, 1, 2].map((lead) =>
    Buffer.from(`${' '.repeat(lead)}${told}`)
      .toString('base64')
      .slice(lead === 0 ? 0 : 4, -4),
  ),
]);
const names = (text: string): boolean => {
  const low = text.toLowerCase();
  return NEEDLES.some((needle) => low.includes(needle.toLowerCase()));
};

const textOf = (value: unknown): string =>
  value instanceof Uint8Array || value instanceof ArrayBuffer
    ? Buffer.from(value as Uint8Array).toString('latin1')
    : JSON.stringify(value ?? null);

/** Every column of every table, and every file, that names them. */
async function whereNamed(): Promise<string[]> {
  const em = unguarded(stage.orm);
  const found: string[] = [];
  for (const table of await tableNames(em))
    for (const row of await rowsOf<Record<string, unknown>>(em, em.getKnex()(table).select('*')))
      for (const [column, value] of Object.entries(row)) if (names(textOf(value))) found.push(`${table}.${column}`);
  // The file of the database too: nothing is left in its free pages.
  for (const file of filesUnder(stage.folder)) if (names(`${file} ${readFileSync(file, 'latin1')}`)) found.push(file);
  return [...new Set(found)].toSorted();
}

const filesUnder = (folder: string): string[] =>
  readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    return statSync(path).isDirectory() ? filesUnder(path) : [path];
  });

test('every table and every folder says what it holds', async () => {
  const em = unguarded(stage.orm);
  const declared = declarations.map((of) => tableOf(em, of)).toSorted();
  const tables = (await tableNames(em)).filter((name) => name !== 'mikro_orm_migrations');
  expect(declared).toEqual(tables);
  await fillEverything();
  const folders = readdirSync(stage.folder).filter((name) => statSync(join(stage.folder, name)).isDirectory());
  expect(folders.toSorted()).toEqual(STORES.map((store) => store.folder).toSorted());
});

/** What the file leaves out of a table that it tells of, and why. */
const UNTOLD: Readonly<Record<string, string>> = {
  'activity_event.event_id': 'of a platform, for the event that is told',
  'grade.event_id': 'of a platform, for the grade that is told',
  'retracted.event_id': 'of a platform, for the fact that is told',
  'reply.message_id': 'of a mail program, for the reply that is told',
  'course_change.changes': 'what it changed of the student is told, and nothing of others',
  'attempt.html': 'the same as its text',
  'attempt.sent_with': 'the names of the files stand beside it',
  'attempt.recipient_name': 'stands with the address',
  'nudge.idempotency_key': 'its parts are told',
  'statement.digest': 'of the statement that is told',
  'statement.actor': 'stands in the statement',
  'statement.said': 'stands in the statement',
  'statement.why': 'says why it was not understood',
  'retracted.criterion': 'of a grade that was taken back: its item is told',
};

test('the file of a student tells everything that the tables say they tell', async () => {
  await fillEverything();
  const em = unguarded(stage.orm);
  await em.nativeUpdate(StatementRow, {}, { json: JSON.stringify({ said: TEXT }) });
  const opened = await stage.services.live.get(em, 1);
  const data: Readonly<Record<string, unknown>> = { ...(await dataOf(em, opened, WHO.id, stage.clock.now())) };
  const missing: string[] = [];
  for (const of of declarations) {
    const { told } = of;
    const table = tableOf(em, of);
    if (typeof told !== 'string' || table === 'person' || table === 'access') continue;
    const part = JSON.stringify(data[told]);
    const theirs = await knownIn(em, of, 1, erasedStudent({ ...WHO, contacts: [] }, WHO.id, new Set()));
    for (const row of await rowsOf<Record<string, unknown>>(em, em.getKnex()(table).select('*')))
      for (const [column, { kind }] of Object.entries(of.columns)) {
        const place = `${table}.${propertyOf(em, of, column).fieldNames[0]!}`;
        const value = row[propertyOf(em, of, column).fieldNames[0]!];
        if (!theirs.has(row[keyOf(em, of)] as number)) continue;
        if (!['name', 'address', 'text', 'facts'].includes(kind) || typeof value !== 'string' || !names(value))
          continue;
        if (!part.includes(JSON.stringify(value).slice(1, -1)) && !part.includes(value) && !(place in UNTOLD))
          missing.push(`${place}: ${value}`);
      }
  }
  expect(missing).toEqual([]);
});

test('who stands wherever somebody may stand is nowhere once they are erased, and others stay', async () => {
  await fillEverything();
  const before = await whereNamed();
  const em = unguarded(stage.orm);
  for (const of of declarations.filter((d) => !['person', 'erased', 'course'].includes(tableOf(em, d))))
    for (const [column, { emptied, searched }] of Object.entries(of.columns)) {
      const { fieldNames, runtimeType } = propertyOf(em, of, column);
      if ((emptied ?? searched) && runtimeType !== 'number')
        expect(before).toContain(`${tableOf(em, of)}.${fieldNames[0]!}`);
    }

  await beginErasing(stage.services, { course: 1, student: WHO.id, by: accountActor(1) });
  await goOn(stage.services);
  expect(await whereNamed()).toEqual([]);

  const rows = (table: string) => rowsOf<Record<string, unknown>>(em, em.getKnex()(table).select('*'));
  const [sheet] = await rows('sheet');
  expect(textOf(sheet!['rows'])).toContain('others');
  expect(textOf((await rows('rule')).map((rule) => rule['document']))).toContain('p2');
  const recipients = (await rows('attempt')).map((a) => String(a['recipient_name']));
  expect(recipients).toEqual(expect.arrayContaining(['Advisor', 'a student']));
  const inbox = folderOf(stage.services.folder, await em.findOneOrFail(CourseRow, { id: 1 }));
  expect(KEPT_FOLDERS.map((name) => readdirSync(join(inbox, name)))).toEqual(KEPT_FOLDERS.map(() => ['others.csv']));
});

test('nothing that is to be forgotten of a course is left so many months after its end', async () => {
  await fillEverything();
  stage.clock.set(stage.clock.now() + 5 * 366 * 86_400_000);
  await forgetOld(stage.services);
  const em = unguarded(stage.orm);
  const left = await whereNamed();
  for (const of of declarations) {
    const table = tableOf(em, of);
    if (of.kept === 'goes') expect([table, await rowsOf(em, em.getKnex()(table).where({}))]).toEqual([table, []]);
    if (of.kept !== 'emptied') continue;
    for (const [column, { emptied }] of Object.entries(of.columns))
      if (emptied && 'to' in emptied)
        expect(left).not.toContain(`${table}.${propertyOf(em, of, column).fieldNames[0]!}`);
  }
  const inbox = folderOf(stage.services.folder, await em.findOneOrFail(CourseRow, { id: 1 }));
  expect([...filesUnder(inbox), ...filesUnder(stage.services.exporting)]).toEqual([]);
  expect(existsSync(join(stage.folder, 'brought')) ? filesUnder(join(stage.folder, 'brought')) : []).toEqual([]);
});

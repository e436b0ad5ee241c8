/* eslint-disable @typescript-eslint/no-unsafe-call -- what must not compile is of no type */
/**
 * What must not compile, checked by the type check alone: each `@ts-expect-error` fails it where the line below would compile. Nothing here
 * runs.
 */
import { accountHolds, Account, installationHolds, sessionHolds } from '../access/entity.ts';
import { CourseRow, courseHolds, personHolds, PersonRow } from '../course/entity.ts';
import { messageHolds } from '../mail/nudges/entity.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { run, select } from '../platform/database/query.ts';
import { execute, type Statements } from '../platform/database/statements.ts';
import { insertRow, removeRows, updateRow, updateRows } from '../platform/database/writing.ts';

export async function rowsNeedTheirOwner(
  nothing: Tx,
  course: Tx<'course'>,
  account: Tx<'account'>,
  both: Tx<'course' | 'account'>,
  installation: Tx<'installation'>,
  claim: Tx<'claim'>,
): Promise<void> {
  await updateRows(course, courseHolds, { id: 1 }, { title: 'T' });
  await updateRows(both, courseHolds, { id: 1 }, { title: 'T' });
  await updateRows(account, accountHolds, { id: 1 }, { name: 'N' });
  await updateRows(installation, installationHolds, { id: 1 }, { keepMonths: 1 });
  // @ts-expect-error nothing is held
  await updateRows(nothing, courseHolds, { id: 1 }, { title: 'T' });
  // @ts-expect-error an account is no course
  await removeRows(account, personHolds, { course: 1 });
  // @ts-expect-error a course is no account
  await updateRows(course, accountHolds, { id: 1 }, { name: 'N' });
  // @ts-expect-error a course is not the installation
  await updateRows(course, installationHolds, { id: 1 }, { keepMonths: 1 });
  // Either of a table's owners is enough.
  await updateRows(course, messageHolds, { id: 1 }, { attempts: 1 });
  await updateRows(claim, messageHolds, { id: 1 }, { attempts: 1 });
  // @ts-expect-error neither owner is held
  await updateRows(account, messageHolds, { id: 1 }, { attempts: 1 });
  // Single conditional statements hold nothing.
  await removeRows(nothing, sessionHolds, { id: 's' });
  // @ts-expect-error nothing is held
  await run(nothing, personHolds, nothing.getKnex()('person').delete());
}

export async function readingWritesNothing(em: Em): Promise<void> {
  const course = await em.findOneOrFail(CourseRow, { id: 1 });
  // @ts-expect-error what was read is read-only
  course.title = 'T';
  const row: PersonRow = await em.findOneOrFail(PersonRow, { id: 1 });
  // @ts-expect-error a row's type is read-only too
  row.email = null;
  // @ts-expect-error there is no create
  em.create(Account, {});
  // @ts-expect-error there is no flush
  await em.flush();
  // @ts-expect-error there is no nativeDelete
  await em.nativeDelete(PersonRow, {});
  // @ts-expect-error reading holds nothing
  await updateRow(em, courseHolds, course, { title: 'T' });
}

export async function columnsAreTheTables(tx: Tx<'course'>): Promise<void> {
  // @ts-expect-error a course has no such column
  await updateRows(tx, courseHolds, { id: 1 }, { nickname: 'N' });
  // @ts-expect-error a person needs a course
  await insertRow(tx, personHolds, { key: 'p1' });
  // @ts-expect-error a person has no such column
  await select(tx, personHolds, ['nickname'], (query) => query);
  const [person] = await select(tx, personHolds, ['key'], (query) => query);
  // @ts-expect-error this column was not selected
  void person?.name;
}

export async function statementsSayTheirTable(statements: Statements, claim: Statements<'claim'>): Promise<void> {
  await statements.ask('select id from message', []);
  // @ts-expect-error only what reads
  await statements.ask('delete from message', []);
  await execute(claim, messageHolds, 'delete from message', []);
  // @ts-expect-error nothing is held
  await execute(statements, messageHolds, 'delete from message', []);
}

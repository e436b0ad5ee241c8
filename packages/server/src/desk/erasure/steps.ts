/**
 * What is removed of a student, step by step: each is a transaction of its own, may be done again, and leaves other work its turn. Rows
 * that limits and counts stand on stay, without anybody in them.
 */
import type { Person } from '@zest-bell/core/course';
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Knex } from 'knex';
import { ImportRow } from '../../intake/imports/entity.ts';
import { ItemRow } from '../../course/entity.ts';
import { ChangeRow } from '../../intake/changes/entity.ts';
import { MailingRow, SheetRow } from '../../mail/byHand/entity.ts';
import type { BroughtFiles } from '../../intake/imports/broughtFiles.ts';
import type { Orm, Tx } from '../../platform/database/orm.ts';
import { inSlices, rowsOf, run } from '../../platform/database/query.ts';
import { inTransaction } from '../../platform/database/transaction.ts';

/** Rows that one transaction looks at. */
const SLICE = 2000;
const NOBODY = 'a student';

export interface Erasing {
  readonly orm: Orm;
  readonly brought: Pick<BroughtFiles, 'forget'>;
  readonly course: number;
  readonly person: Pick<Person, 'id' | 'email' | 'firstName' | 'lastName' | 'contacts'>;
  /** Under which id they stand from now on. */
  readonly standsAs: string;
}

/** A text in which they may be named: by id, address, or whole name. */
function names({ person }: Erasing): (text: string) => boolean {
  const whole = `${person.firstName} ${person.lastName}`.trim().toLowerCase();
  const said = [person.email, ...person.contacts.map((c) => c.email)].flatMap((t) => (t ? [t.toLowerCase()] : []));
  const id = new RegExp(`(^|[^\\w.@-])${person.id.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}($|[^\\w.@-])`, 'i');
  return (text) => {
    const small = text.toLowerCase();
    return id.test(text) || (whole !== '' && small.includes(whole)) || said.some((t) => small.includes(t));
  };
}

/** Everything, from wherever it was left. */
export async function erasePerson(erasing: Erasing): Promise<void> {
  for (const step of STEPS) {
    await step(erasing);
    await nextTurn();
  }
}

type Step = (erasing: Erasing) => Promise<void>;

/** Goes through a table in slices of ids, each in a transaction of its own. */
async function through(
  { orm, course }: Erasing,
  table: string,
  columns: readonly string[],
  each: (tx: Tx, rows: readonly Readonly<Record<string, unknown> & { readonly id: number }>[]) => Promise<void>,
): Promise<void> {
  for (let after = 0; ;) {
    const rows = await inTransaction(orm, async (tx) => {
      const query = tx
        .getKnex()(table)
        .select(['id', ...columns])
        .where({ course })
        .where('id', '>', after)
        .orderBy('id')
        .limit(SLICE);
      const page = await rowsOf<Record<string, unknown> & { id: number }>(tx, query);
      await each(tx, page);
      return page;
    });
    if (rows.length < SLICE) return;
    after = rows.at(-1)!.id;
    await nextTurn();
  }
}

const within = (tx: Tx, table: string): Knex.QueryBuilder => tx.getKnex()(table);

async function removeWhere(tx: Tx, table: string, ids: readonly number[]): Promise<void> {
  for (const slice of inSlices(ids)) await run(tx, within(tx, table).whereIn('id', slice).delete());
}

const facts =
  (table: string): Step =>
  (erasing) =>
    through(erasing, table, ['person'], (tx, rows) =>
      removeWhere(
        tx,
        table,
        rows.filter((r) => r['person'] === erasing.person.id).map((r) => r.id),
      ),
    );

/** What is theirs alone goes by one condition. */
const own =
  (table: string): Step =>
  ({ orm, course, person }) =>
    inTransaction(orm, (tx) => run(tx, within(tx, table).where({ course, student: person.id }).delete()));

/** What counts stand on stays under another id. */
const renamed =
  (table: string, emptied: Readonly<Record<string, unknown>>): Step =>
  ({ orm, course, person, standsAs }) =>
    inTransaction(orm, (tx) =>
      run(
        tx,
        within(tx, table)
          .where({ course, student: person.id })
          .update({ student: standsAs, ...emptied }),
      ),
    );

/** The mail of their nudges: who it went to, and what it said. */
const mail: Step = async ({ orm, course, person, standsAs }) => {
  const ids = await inTransaction(orm, async (tx) =>
    (
      await rowsOf<{ id: number }>(
        tx,
        within(tx, 'nudge').select('id').where({ course }).whereIn('student', [person.id, standsAs]),
      )
    ).map((r) => r.id),
  );
  for (const slice of inSlices(ids)) {
    await inTransaction(orm, async (tx) => {
      const at = (table: string) => within(tx, table).whereIn('nudge', slice);
      const left = {
        recipient_name: NOBODY,
        address: '',
        subject: '',
        body: '',
        html: '',
        evidence: '[]',
        files: '[]',
        sent_with: null,
        response: '',
      };
      await run(tx, at('attempt').update(left));
      await run(tx, at('message').update({ name: NOBODY, address: '', reader: null, trouble: null }));
      await run(tx, at('reply').delete());
      await run(tx, at('plain_mail').update({ subject: '', text: '' }));
      const plain = within(tx, 'message').select('id').whereIn('plain_mail', at('plain_mail').select('id'));
      await run(tx, within(tx, 'attempt').whereIn('message', plain).update(left));
    });
    await nextTurn();
  }
};

/** Nudges last: by them their mail is found. A key of a nudge names its student. */
const nudges: Step = async (erasing) => {
  const { orm, course, person, standsAs } = erasing;
  await inTransaction(orm, async (tx) => {
    const knex = tx.getKnex();
    const emptied = {
      student: standsAs,
      evidence: '[]',
      subject: null,
      edited: null,
      dismissed_for: null,
      passed: null,
    };
    const key = { idempotency_key: knex.raw("'erased:' || id") };
    await run(
      tx,
      knex('nudge')
        .where({ course, student: person.id })
        .update({ ...emptied, ...key }),
    );
  });
};

const statements: Step = (erasing) => {
  const isNamed = names(erasing);
  return through(erasing, 'statement', ['json'], (tx, rows) =>
    removeWhere(
      tx,
      'statement',
      rows.filter((r) => isNamed(String(r['json']))).map((r) => r.id),
    ),
  );
};

/** Changes stay, so that others can be undone, and say nothing of them. */
const changes: Step = (erasing) => {
  const isNamed = names(erasing);
  const { orm, course, person } = erasing;
  return inTransaction(orm, async (tx) => {
    for (const row of await tx.find(ChangeRow, { course })) {
      const people = row.changes.people.filter((c) => c.id !== person.id);
      if (people.length < row.changes.people.length) row.changes = { ...row.changes, people };
      if (isNamed(row.title)) row.title = `${NOBODY}: a change`;
    }
    await tx.flush();
  });
};

/** Refused rows of files, files that were not taken yet, sheets, and the values of messages by hand. */
const files: Step = async (erasing) => {
  const isNamed = names(erasing);
  const { orm, course, person, brought } = erasing;
  const forgotten = await inTransaction(orm, async (tx) => {
    const gone: string[] = [];
    for (const row of await tx.find(ImportRow, { course })) {
      if (row.report && isNamed(JSON.stringify(row.report)))
        row.report = { ...row.report, refused: row.report.refused.filter((line) => !isNamed(JSON.stringify(line))) };
      if (row.file != null) {
        // What is in a file nobody took is not known: it is brought again where it is still wanted.
        gone.push(row.file);
        Object.assign(row, {
          file: null,
          state: 'refused',
          trouble: 'Removed, as a student was erased. Bring the file again',
        });
      }
      await run(tx, within(tx, 'import_bytes').where({ import: row.id }).delete());
    }
    for (const sheet of await tx.find(SheetRow, { course }))
      sheet.rows = sheet.rows.map((cells) => (cells.some(isNamed) ? cells.map(() => '') : cells));
    for (const mailing of await tx.find(MailingRow, { course })) {
      const { [person.id]: _theirs, ...others } = mailing.rows as Record<string, unknown>;
      mailing.rows = others as typeof mailing.rows;
    }
    for (const item of await tx.find(ItemRow, { course })) {
      item.excused = item.excused.filter((id) => id !== person.id);
      item.extensions = item.extensions.filter((e) => e.person !== person.id);
    }
    await tx.flush();
    return gone;
  });
  await brought.forget(forgotten);
};

const acts: Step = ({ orm, course, person, standsAs }) =>
  inTransaction(orm, async (tx) => {
    const rows = await rowsOf<{ id: number; about: string }>(
      tx,
      within(tx, 'act')
        .select(['id', 'about'])
        .where({ course })
        .where('about', 'like', `%${JSON.stringify(person.id).slice(1, -1)}%`),
    );
    for (const { id, about } of rows) {
      const said = (typeof about === 'string' ? JSON.parse(about) : about) as Record<string, string>;
      const next = Object.fromEntries(Object.entries(said).map(([k, v]) => [k, v === person.id ? standsAs : v]));
      await run(
        tx,
        within(tx, 'act')
          .where({ id })
          .update({ about: JSON.stringify(next) }),
      );
    }
  });

const STEPS: readonly Step[] = [
  facts('activity_event'),
  facts('grade'),
  facts('retracted'),
  mail,
  nudges,
  renamed('refusal', { evidence: '[]' }),
  renamed('trial_draw', {}),
  own('pin'),
  own('note'),
  own('aside'),
  statements,
  changes,
  files,
  acts,
];

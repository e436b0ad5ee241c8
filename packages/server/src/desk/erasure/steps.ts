/**
 * What is removed of a student, step by step: each is a transaction of its own, may be done again, and leaves other work its turn. Rows
 * that limits and counts stand on stay, without anybody in them.
 */
import { fieldsOf } from '@zest-bell/core/imports';
import { setImmediate as nextTurn } from 'node:timers/promises';
import { isDeepStrictEqual } from 'node:util';
import type { Item } from '@zest-bell/core/course';
import type { Knex } from 'knex';
import { ImportBytesRow, ImportMemoryRow, ImportRow } from '../../intake/imports/entity.ts';
import { CourseRow, ItemRow } from '../../course/entity.ts';
import { ChangeRow } from '../../intake/changes/entity.ts';
import { MailingRow, SheetRow } from '../../mail/byHand/entity.ts';
import type { BroughtFiles } from '../../intake/imports/broughtFiles.ts';
import type { Orm, Tx } from '../../platform/database/orm.ts';
import { inSlices, rowsOf, run } from '../../platform/database/query.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { RuleRow, RuleVersionRow } from '../../rules/entity.ts';
import { SourceRow } from '../../connections/entity.ts';
import { linksTo, withoutRefused } from '../../connections/sources.ts';
import { SetVersionRow } from '../sets/entity.ts';
import { namedIn, withoutNamed, type Known } from './named.ts';

/** Rows that one transaction looks at. */
const SLICE = 2000;
const NOBODY = 'a student';

export interface Erasing {
  readonly orm: Orm;
  readonly brought: Pick<BroughtFiles, 'forget'>;
  readonly course: number;
  readonly person: Known;
  /** Under which id they stand from now on. */
  readonly standsAs: string;
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
        reply_to: '',
        subject: '',
        body: '',
        html: '',
        evidence: '[]',
        files: '[]',
        sent_with: null,
        response: '',
      };
      const nobody = { name: NOBODY, address: '', reader: null, trouble: null };
      // A mail that lists several students says the same in the log of each of them.
      const shared = within(tx, 'attempt').where({ course }).whereIn('message_id', at('attempt').select('message_id'));
      await run(tx, shared.update({ subject: '', body: '', html: '' }));
      await run(tx, at('attempt').update(left));
      await run(tx, at('message').update(nobody));
      await run(tx, at('reply').delete());
      await run(tx, at('plain_mail').update({ subject: '', text: '' }));
      // What went beside the nudge, such as answers, is of no nudge by its own row.
      const answers = (table: string) => within(tx, table).whereIn('plain_mail', at('plain_mail').select('id'));
      await run(tx, within(tx, 'attempt').whereIn('message', answers('message').select('id')).update(left));
      await run(tx, answers('message').update(nobody));
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

/** By whom they are about, as senders identify people and as somebody chose, and by what they say. */
const statements: Step = async (erasing) => {
  const { orm, course, person } = erasing;
  const isNamed = namedIn(person);
  const { meanings } = await orm.em.fork().findOneOrFail(CourseRow, { id: course });
  // What was chosen is kept in small letters.
  const isChosen = (actor: string) =>
    [actor, actor.toLowerCase()].some((said) => meanings.people?.[said] === person.id);
  // Caliper names people by addresses that end with an id, however short.
  const isAddressed = (json: string) => ['/', '#', ':'].some((before) => json.includes(`${before}${person.id}"`));
  const isTheirs = (actor: string) => actor.endsWith(` ${person.id}`) || isChosen(actor);
  await through(erasing, 'statement', ['json', 'actor', 'standard'], (tx, rows) =>
    removeWhere(
      tx,
      'statement',
      rows
        .filter(({ actor, json, standard }) => {
          const text = String(json);
          return isTheirs(String(actor)) || isNamed(text) || (standard === 'caliper' && isAddressed(text));
        })
        .map((r) => r.id),
    ),
  );
};

/** An item that excuses nobody and extends no date for them. */
const withoutThem = <I extends Pick<Item, 'excused' | 'extensions'>>(item: I, person: string): I => ({
  ...item,
  excused: item.excused.filter((id) => id !== person),
  extensions: item.extensions.filter((e) => e.person !== person),
});

/** Changes stay, so that others can be undone, and say nothing of them. */
const changes: Step = (erasing) => {
  const isNamed = namedIn(erasing.person);
  const { orm, course, person } = erasing;
  return inTransaction(orm, async (tx) => {
    for (const row of await tx.find(ChangeRow, { course })) {
      const people = row.changes.people.filter((c) => c.id !== person.id);
      const items = row.changes.items.map((c) => ({
        ...c,
        before: c.before && withoutThem(c.before, person.id),
        after: c.after && withoutThem(c.after, person.id),
      }));
      if (people.length < row.changes.people.length || !isDeepStrictEqual(items, row.changes.items))
        row.changes = { ...row.changes, people, items };
      if (isNamed(row.title)) row.title = `${NOBODY}: a change`;
    }
    await tx.flush();
  });
};

/** Refused rows of files, files that nobody took yet, and what was chosen for reading them. */
const files: Step = async ({ orm, course, person, brought }) => {
  const isNamed = namedIn(person);
  // Where ids stand, an id is one however short it is.
  const isThem = (text: string) => text === person.id || isNamed(text);
  const forgotten = await inTransaction(orm, async (tx) => {
    const gone: string[] = [];
    for (const row of await tx.find(ImportRow, { course })) {
      if (row.report && isNamed(JSON.stringify(row.report)))
        row.report = { ...row.report, refused: row.report.refused.filter((line) => !isNamed(JSON.stringify(line))) };
      row.decisions = withoutNamed(row.decisions, isThem);
      const refused = await tx.findOne(ImportBytesRow, { import: row.id });
      if (refused && isNamed(Buffer.from(refused.bytes).toString('utf8'))) tx.remove(refused);
      if (row.file == null) continue;
      // What is in a file nobody took is not known: it is brought again where it is still wanted.
      gone.push(row.file);
      Object.assign(row, {
        ...{ file: null, state: 'refused' },
        trouble: 'Removed, as a student was erased. Bring the file again',
      });
    }
    for (const memory of await tx.find(ImportMemoryRow, { course }))
      memory.decisions = withoutNamed(memory.decisions, isThem);
    const row = await tx.findOneOrFail(CourseRow, { id: course });
    row.meanings = withoutNamed(row.meanings, isThem);
    await tx.flush();
    return gone;
  });
  await brought.forget(forgotten);
};

/** Sheets, the values of messages by hand, and what the course's own lists say of them. */
const lists: Step = ({ orm, course, person }) =>
  inTransaction(orm, async (tx) => {
    const isNamed = namedIn(person);
    for (const sheet of await tx.find(SheetRow, { course })) {
      const ids = fieldsOf(sheet.headers, 'columns').indexOf('person');
      const isTheirs = (cells: readonly string[]) => cells[ids]?.trim() === person.id || cells.some(isNamed);
      sheet.rows = sheet.rows.map((cells) => (isTheirs(cells) ? cells.map(() => '') : cells));
    }
    for (const mailing of await tx.find(MailingRow, { course })) {
      const { [person.id]: _theirs, ...others } = mailing.rows;
      mailing.rows = others;
      mailing.outside = mailing.outside.filter((address) => !isNamed(address));
    }
    for (const item of await tx.find(ItemRow, { course })) {
      const { excused, extensions } = withoutThem(item, person.id);
      Object.assign(item, { excused, extensions });
    }
    await tx.flush();
  });

type Excepting = { readonly audience?: { readonly except?: readonly string[] } };

/** Rules that leave them out, in every version, and addresses that rules were allowed to write to. */
const rules: Step = ({ orm, course, person }) =>
  inTransaction(orm, async (tx) => {
    const isNamed = namedIn(person);
    const without = <T extends object>(document: T): T => {
      const { audience } = document as Excepting;
      if (!audience?.except?.includes(person.id)) return document;
      return { ...document, audience: { ...audience, except: audience.except.filter((id) => id !== person.id) } };
    };
    const own = await tx.find(RuleRow, { course });
    for (const row of own) {
      row.document = without(row.document);
      if (row.drafted) row.drafted = { ...row.drafted, document: without(row.drafted.document) };
      row.outside = row.outside.filter((address) => !isNamed(address));
    }
    for (const row of await tx.find(RuleVersionRow, { rule: { $in: own.map((r) => r.id) } }))
      row.document = without(row.document);
    for (const row of await tx.find(SetVersionRow, { course })) row.document = without(row.document);
    await tx.flush();
  });

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

/** What sources of the course call them, and what those said of them that did not fit. */
const sources: Step = ({ orm, course, person }) =>
  inTransaction(orm, async (tx) => {
    const isNamed = namedIn(person);
    const links = await linksTo(tx, course, person.id);
    const isThem = new Set(links.map((l) => l.external));
    for (const source of await tx.find(SourceRow, { course })) {
      if (!source.last) continue;
      source.last = withoutRefused(source.last, (r) => isThem.has(r.id) || isNamed(JSON.stringify(r)));
    }
    links.forEach((link) => tx.remove(link));
    await tx.flush();
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
  lists,
  sources,
  rules,
  acts,
];

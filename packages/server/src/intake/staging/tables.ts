/**
 * Events of a large file in tables of their own, from which one statement moves them into the course: a file beside the database on SQLite,
 * and temporary tables of the one connection on PostgreSQL. What a process leaves that dies is no part of the database.
 */
import { rmSync } from 'node:fs';
import Database from 'libsql';
import { itemOfCode, kindOfCode, type EventKind } from '@zest-bell/core/activity';
import type { EventColumns } from '@zest-bell/core/imports';
import { eventHolds, RetractedRow } from '../../course/activity/entity.ts';
import { plain } from '../../platform/database/plain.ts';
import { isOnServer } from '../../platform/database/postgres.ts';
import type { Em, Orm, Tx } from '../../platform/database/orm.ts';
import { inSlices, insertSelected, rowsOf } from '../../platform/database/query.ts';
import { eventIdOf, LONGEST_ID } from '../changes/apply.ts';

/** Some rows: who did what, packed into one number each (`packed`), and when. */
interface StagedRows {
  readonly acts: Float64Array;
  readonly times: Float64Array;
  /** The senders' own ids, and those that are not put together from the other columns, by the place of the row here. */
  readonly ids: ReadonlyMap<number, string>;
}

/** What the numbers mean. */
interface StagedNames {
  readonly people: readonly { readonly key: number; readonly id: string }[];
  readonly acts: readonly { readonly code: number; readonly kind: string; readonly item: string | null }[];
}

/** Where rows are staged, in the ways of a database. */
interface StagingTables {
  /** Names of the tables, as the transaction calls them. */
  readonly sorted: string;
  readonly known: string;
  /** Says what the numbers of rows mean. */
  name(names: StagedNames): Promise<void>;
  /** Puts rows behind the others. */
  add(rows: StagedRows): Promise<void>;
  /** All have come. */
  finish(): Promise<void>;
  end(): Promise<void>;
}

/** A person's key and the code of an act (`actCode.ts`) as one number. */
const CODES = 2 ** 24;
const packed = (who: number, code: number): number => who * CODES + code;

/** Rows that are written by one statement. */
const A_STATEMENT = 500;
const A_STATEMENT_ON_SERVER = 10_000;
/** Rows that are put together at once. */
const A_PART = 1 << 16;
/** Facts that may have come while a file was read, so that it need not be read again. */
const MOST_KNOWN = 5000;
/** As long as the number of an instant and the three breaks of an id may be. */
const LONGEST_NUMBER = 20;

const COLUMNS = ['course', 'event_id', 'person', 'kind', 'item', 'at', 'change'];

export class StagedFile {
  private readonly tables: StagingTables;
  private count = 0;

  constructor(tables: StagingTables) {
    this.tables = tables;
  }

  /** Puts all events into the tables, in the order of the columns. */
  async fill({ people, items, who, codes, times, ids: own }: EventColumns): Promise<void> {
    const names = people.map(plain);
    const acts = new Map<number, { readonly kind: EventKind; readonly item: string | null; readonly length: number }>();
    for (const code of new Set(codes)) {
      const [kind, item] = [kindOfCode(code), itemOfCode(code) < 0 ? null : plain(items[itemOfCode(code)]!)];
      acts.set(code, { kind, item, length: kind.length + (item ?? '').length + LONGEST_NUMBER });
    }
    await this.tables.name({
      people: names.map((id, key) => ({ key, id })),
      acts: [...acts].map(([code, { kind, item }]) => ({ code, kind, item })),
    });
    const idOf = (place: number): string | undefined => {
      const said = own.get(place);
      if (said !== undefined) return plain(said);
      const [person, { kind, item, length }] = [names[who[place]!]!, acts.get(codes[place]!)!];
      return person.length + length > LONGEST_ID ? eventIdOf({ person, kind, item, at: times[place]! }) : undefined;
    };
    for (let from = 0; from < codes.length; from += A_PART) {
      const to = Math.min(codes.length, from + A_PART);
      const ids = new Map<number, string>();
      const part = new Float64Array(to - from);
      for (let place = from; place < to; place++) {
        part[place - from] = packed(who[place]!, codes[place]!);
        const id = idOf(place);
        if (id !== undefined) ids.set(place - from, id);
      }
      await this.tables.add({ acts: part, times: times.subarray(from, to), ids });
    }
    await this.tables.finish();
    this.count = codes.length;
  }

  get length(): number {
    return this.count;
  }

  /** Leaves out what some people did. */
  async withoutPeople(em: Tx, people: ReadonlySet<string>): Promise<void> {
    for (const slice of inSlices([...people])) {
      const marks = slice.map(() => '?').join(',');
      this.count -= await changing(em, `delete from ${this.tables.sorted} where person in (${marks})`, slice);
    }
  }

  /** Leaves out what a course has been told since a row; false where that is too much to look through. */
  async withoutToldSince(em: Tx, course: number, row: number): Promise<boolean> {
    const { sorted, known } = this.tables;
    const query = em.getKnex()('activity_event').select('person', 'kind', 'item', 'at');
    const told = await rowsOf<{ person: string; kind: string; item: string | null; at: number }>(
      em,
      query
        .where({ course })
        .where('id', '>', row)
        .orderBy('id')
        .limit(MOST_KNOWN + 1),
    );
    if (told.length > MOST_KNOWN) return false;
    await changing(em, `delete from ${known}`, []);
    for (const slice of inSlices(told, 100)) {
      const values = slice.flatMap(({ person, kind, item, at }) => [person, kind, item ?? '', at]);
      const rows = slice.map(() => '(?,?,?,?)').join(',');
      await changing(em, `insert into ${known} values ${rows} on conflict do nothing`, values);
    }
    const same = `k.person = s.person and k.kind = s.kind and k.item = coalesce(s.item, '') and k.at = s.at`;
    await changing(em, `delete from ${sorted} as s where exists (select 1 from ${known} as k where ${same})`, []);
    return true;
  }

  /** Moves what is new, and returns how many rows that was. */
  async moveInto(em: Tx<'course'>, course: number, change: number): Promise<number> {
    const { sorted } = this.tables;
    const isBack = (await em.count(RetractedRow, { course })) > 0;
    const back = `select 1 from retracted as r where r.course = ? and r.fact = 'event' and r.event_id = s.event_id`;
    const from = `select ?, s.event_id, s.person, s.kind, s.item, s.at, ? from ${sorted} as s`;
    const wanted = isBack ? `${from} where not exists (${back})` : `${from} where true`;
    const values = isBack ? [course, change, course] : [course, change];
    return insertSelected(em, eventHolds, COLUMNS, ['course', 'event_id'], wanted, values);
  }

  /** Nothing is left of it afterwards. */
  end(): Promise<void> {
    return this.tables.end();
  }
}

/** Changes staged tables, which nobody else sees, and counts the rows. */
async function changing(em: Em, sql: string, values: readonly (string | number | null)[]): Promise<number> {
  const query = em.getKnex().raw(sql, values as (string | number)[]);
  const trx = em.getTransactionContext<Parameters<typeof query.transacting>[0]>();
  const answer = (await (trx ? query.transacting(trx) : query)) as { changes?: number; rowCount?: number };
  return answer.changes ?? answer.rowCount ?? 0;
}

/** What was added, with its names and with an id that is put together where it has none of its own. `newline`: as the database writes one. */
const named = (newline: string): string =>
  `insert into staged_sorted select coalesce(e.id, 'c:' || p.id || ${newline} || a.kind || ${newline} || coalesce(a.item, '') || ${newline} || e.at),` +
  ` p.id, a.kind, a.item, e.at from staged_event e cross join staged_person p cross join staged_act a` +
  ` where p.key = e.act / ${CODES} and a.code = e.act % ${CODES}`;

const EVENT = 'staged_event (act bigint, at bigint, id text)';
const PERSON = 'staged_person (key integer primary key, id text)';
const ACT = 'staged_act (code integer primary key, kind text, item text)';
const SORTED = 'staged_sorted (event_id text, person text, kind text, item text, at bigint)';
const KNOWN = 'staged_known (person text, kind text, item text, at bigint, primary key (person, kind, item, at))';

export const stagedFile = async (orm: Orm, file: string): Promise<StagedFile> =>
  new StagedFile(isOnServer(orm.em) ? await serverTables(orm) : fileTables(orm, file));

/** In a file beside the database. It is written over a connection of its own, and read by the transaction as `staged`. */
function fileTables(orm: Orm, file: string): StagingTables {
  rmSync(file, { force: true });
  const db = new Database(file);
  db.exec('pragma journal_mode = off');
  db.exec('pragma synchronous = off');
  db.exec('pragma cache_size = -16384');
  for (const table of [EVENT, PERSON, ACT, SORTED, KNOWN]) db.exec(`create table ${table}`);
  let isAttached = false;
  const insert = (table: string, width: number, values: readonly (string | number | null)[]): void => {
    const row = `(${Array.from({ length: width }, () => '?').join(',')})`;
    const statement = (rows: number) =>
      db.prepare(`insert into ${table} values ${Array.from({ length: rows }, () => row).join(',')}`);
    const size = A_STATEMENT * width;
    const whole = values.length >= size ? statement(A_STATEMENT) : null;
    for (let from = 0; from < values.length; from += size) {
      const slice = values.slice(from, from + size);
      (slice.length === size ? whole! : statement(slice.length / width)).run(slice);
    }
  };
  return {
    sorted: 'staged.staged_sorted',
    known: 'staged.staged_known',
    name(names) {
      insert(
        'staged_person',
        2,
        names.people.flatMap((p) => [p.key, p.id]),
      );
      insert(
        'staged_act',
        3,
        names.acts.flatMap((a) => [a.code, a.kind, a.item]),
      );
      return Promise.resolve();
    },
    add({ acts, times, ids }) {
      db.exec('begin');
      const hasIds = ids.size > 0;
      const values: (string | number | null)[] = [];
      for (let i = 0; i < acts.length; i++) {
        values.push(acts[i]!, times[i]!);
        if (hasIds) values.push(ids.get(i) ?? null);
      }
      insert(hasIds ? 'staged_event (act, at, id)' : 'staged_event (act, at)', hasIds ? 3 : 2, values);
      db.exec(named('char(10)'));
      db.exec('delete from staged_event');
      db.exec('commit');
      return Promise.resolve();
    },
    async finish() {
      db.close();
      await orm.em.getConnection().execute(`attach '${file.replaceAll("'", "''")}' as staged`);
      isAttached = true;
      // What a transaction leaves out comes back where it has to begin again.
      await orm.em.getConnection().execute('pragma staged.journal_mode = memory');
    },
    async end() {
      if (isAttached) await orm.em.getConnection().execute('detach staged');
      else if (db.open) db.close();
      rmSync(file, { force: true });
    },
  };
}

/** In temporary tables, which go with the connection of the thread. */
async function serverTables(orm: Orm): Promise<StagingTables> {
  const run = (sql: string, values: readonly string[] = []) => changing(orm.em, sql, values);
  const names = ['staged_event', 'staged_person', 'staged_act', 'staged_sorted', 'staged_known'];
  const dropAll = async () => {
    for (const name of names) await run(`drop table if exists pg_temp.${name}`);
  };
  await dropAll();
  for (const table of [EVENT, PERSON, ACT, SORTED, KNOWN]) await run(`create temp table ${table}`);
  const listOf = (numbers: Float64Array) => `{${numbers.join(',')}}`;
  return {
    sorted: 'staged_sorted',
    known: 'staged_known',
    async name(names) {
      const lists = 'select * from json_to_recordset(?::json) as n';
      await run(`insert into staged_person ${lists}(key int, id text)`, [JSON.stringify(names.people)]);
      await run(`insert into staged_act ${lists}(code int, kind text, item text)`, [JSON.stringify(names.acts)]);
    },
    async add({ acts, times, ids }) {
      for (let from = 0; from < acts.length; from += A_STATEMENT_ON_SERVER) {
        const to = from + A_STATEMENT_ON_SERVER;
        const own = [...ids].flatMap(([place, id]) =>
          place >= from && place < to ? [{ n: place - from + 1, id }] : [],
        );
        await run(
          'insert into staged_event select e.act, e.at, i.id' +
            ' from unnest(?::bigint[], ?::bigint[]) with ordinality as e(act, at, n)' +
            ' left join json_to_recordset(?::json) as i(n bigint, id text) on i.n = e.n order by e.n',
          [listOf(acts.subarray(from, to)), listOf(times.subarray(from, to)), JSON.stringify(own)],
        );
      }
      await run(named('chr(10)'));
      await run('truncate staged_event');
    },
    finish: () => Promise.resolve(),
    end: dropAll,
  };
}

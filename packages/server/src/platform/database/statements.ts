/**
 * Statements with constant text and bound values: each connection keeps them prepared. For rows that are written for every
 * message, where building a query takes longer than the database does.
 */
import type { EntitySchema } from '@mikro-orm/core';
import type { Knex } from '@mikro-orm/knex';
import { MOMENT } from './moment.ts';
import type { Holds, Owner } from './holds.ts';
import type { AnyOrm, Em, Holding, Orm, Tx } from './orm.ts';
import { isOnServer } from './postgres.ts';
import type { PreparedStatement } from './sqlite.ts';
import { seeingRoom } from './space.ts';
import { whenFree } from './whenFree.ts';

export type SqlValue = string | number | null;

const raw: unique symbol = Symbol('any statement');
declare const holding: unique symbol;

/** Of one transaction, which holds `H`. */
export interface Statements<H extends Holding = never> {
  readonly [holding]?: { readonly [K in H]: true };
  /** Runs a statement that reads, in which each `?` represents a value, and gives the rows as they are stored. */
  readonly ask: <Row extends object>(sql: `select ${string}`, values: readonly (SqlValue | List)[]) => Promise<Row[]>;
  /** Any statement: only `execute` calls this, with the table that it changes. */
  readonly [raw]: <Row extends object>(sql: string, values: readonly (SqlValue | List)[]) => Promise<Row[]>;
  /** The condition that a column is among the values of a list, which is bound as one. */
  readonly among: (column: string) => string;
  readonly list: (values: readonly (string | number)[]) => List;
  /** This moment by the clock that all processes share, in ms since 1970 (`moment.ts`). */
  readonly moment: string;
  /** The text that a JSON object, which is bound as one value, has for the whole number in a column. */
  readonly textFor: (column: string) => string;
}

declare const list: unique symbol;
/** Many values, bound as one. */
export interface List {
  readonly [list]: true;
}

/** SQLite's connection, as `sqlite.ts` sets it up. */
interface FileConnection {
  readonly inTransaction: boolean;
  exec(sql: string): void;
  keep(sql: string): PreparedStatement;
}

interface ServerLine {
  query(asked: { text: string; values?: readonly unknown[] }): Promise<{ rows: object[] }>;
}

type Connection = FileConnection | ServerLine;
interface Pool {
  acquireConnection(): Promise<Connection>;
  releaseConnection(connection: Connection): Promise<void>;
}

/** Statements that a transaction with one of these owners may run. */
export type StatementsOf<O extends Owner> = 'process' extends O ? Statements : StatementsFor<Exclude<O, 'process'>>;
type StatementsFor<H extends Holding> = H extends Holding ? Statements<H> : never;

/** Runs a statement that changes rows of a table, and gives the rows that it returns, as they are stored. */
export const execute = <S extends EntitySchema, O extends Owner>(
  statements: StatementsOf<O>,
  _table: Holds<S, O>,
  sql: string,
  values: readonly (SqlValue | List)[],
): Promise<unknown[]> => (statements as Statements)[raw](sql, values);

/** Statements within the transaction that `tx` is. */
export async function statementsOf<H extends Holding = never>(tx: Tx<H> | Statements<H>): Promise<Statements<H>> {
  if ('ask' in tx) return tx;
  const trx = tx.getTransactionContext<Knex.Transaction>();
  if (!trx) throw new Error('Statements are part of a transaction');
  // As the query builder says it of a transaction that could not begin.
  if (trx.isCompleted()) throw new Error('Transaction query already complete');
  return over(await poolOf(trx).acquireConnection(), tx) as Statements<H>;
}

export interface PlainTransaction {
  /**
   * Whether it is on the disk, with all that was committed before it, when this returns: a power cut does not take it back. A database
   * server sees to that on its own; in a file it costs a sync.
   */
  readonly isSynced?: boolean;
}

/** Runs `work` in a transaction of nothing but such statements, again if the database was busy. Throws `busy` when it stays so. */
export const inPlainTransaction = <T>(
  orm: Orm,
  work: (statements: Statements) => Promise<T>,
  { isSynced = false }: PlainTransaction = {},
): Promise<T> =>
  whenFree(() =>
    seeingRoom(orm, async () => {
      const pool = poolOf((orm as unknown as AnyOrm).em.getKnex());
      const isServer = isOnServer(orm.em);
      const connection = await pool.acquireConnection();
      const step = async (sql: string) => {
        try {
          if (isServer) await (connection as ServerLine).query({ text: sql });
          else (connection as FileConnection).exec(sql);
        } catch (error) {
          throw orm.em.getDriver().convertException(error as Error);
        }
      };
      // It cannot change within a transaction.
      const syncs = isSynced && !isServer;
      try {
        if (syncs) await step('pragma synchronous = FULL');
        await step(isServer ? 'begin' : 'begin immediate');
        try {
          const done = await work(over(connection, orm.em));
          await step('commit');
          return done;
        } catch (error) {
          // A transaction that stayed open would take in whatever is written next. Where the line is gone, so is it.
          await step('rollback').catch(() => undefined);
          throw error;
        }
      } finally {
        if (syncs) await step('pragma synchronous = NORMAL').catch(() => undefined);
        await pool.releaseConnection(connection);
      }
    }),
  );

const poolOf = (knex: Knex): Pool => knex.client as Pool;

type SqlDialect = Pick<Statements, 'among' | 'list' | 'moment' | 'textFor'> & {
  readonly runs: <Row extends object>(sql: string, values: readonly (SqlValue | List)[]) => Promise<Row[]>;
};

function over(connection: Connection, em: Em): Statements {
  const statements = isOnServer(em) ? overLine(connection as ServerLine) : inFile(connection as FileConnection);
  // What goes wrong is told as the library tells it.
  const runs = <Row extends object>(sql: string, values: readonly (SqlValue | List)[]) =>
    statements.runs<Row>(sql, values).catch((error: unknown) => {
      throw em.getDriver().convertException(error as Error);
    });
  const { among, list, moment, textFor } = statements;
  return { ask: runs, [raw]: runs, among, list, moment, textFor };
}

function inFile(connection: FileConnection): SqlDialect {
  return {
    async runs<Row extends object>(sql: string, values: readonly (SqlValue | List)[]) {
      if (!connection.inTransaction) throw new Error('Transaction query already complete');
      return (await connection.keep(sql).all(values)) as Row[];
    },
    among: (column) => `${column} in (select value from json_each(?))`,
    list: (values) => JSON.stringify(values) as unknown as List,
    moment: MOMENT.file,
    textFor: (column) => `json_extract(?, '$."' || ${column} || '"')`,
  };
}

const overLine = (line: ServerLine): SqlDialect => ({
  async runs<Row extends object>(sql: string, values: readonly (SqlValue | List)[]) {
    return (await line.query({ text: numbered(sql), values })).rows as Row[];
  },
  among: (column) => `${column} = any(?)`,
  list: (values) => values as unknown as List,
  moment: MOMENT.server,
  textFor: (column) => `(?::jsonb ->> ${column}::text)`,
});

/** PostgreSQL counts its places. */
const numbered = (sql: string): string => {
  let n = 0;
  return sql.replaceAll('?', () => `$${++n}`);
};

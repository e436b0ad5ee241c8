/**
 * How often something was asked within a while, counted for all processes together: in the database where several may answer, else in
 * memory by the package that limits it.
 */
import type { ClientRateLimitInfo, Store } from 'express-rate-limit';
import type { Orm } from '../database/orm.ts';
import { isOnServer } from '../database/postgres.ts';
import { inPlainTransaction, execute } from '../database/statements.ts';
import { hitsHolds } from './entity.ts';

/** The option that says where hits of `what` are counted; none leaves them in memory. */
export const countedIn = (orm: Orm, what: string): { readonly store: Store } | Record<never, never> =>
  isOnServer(orm.em) ? { store: new SharedHits(orm, what) } : {};

class SharedHits implements Store {
  readonly localKeys = false;
  private readonly orm: Orm;
  private readonly what: string;
  private span = 60_000;

  constructor(orm: Orm, what: string) {
    this.orm = orm;
    this.what = what;
  }

  init({ windowMs }: { readonly windowMs: number }): void {
    this.span = windowMs;
  }

  async increment(key: string): Promise<ClientRateLimitInfo> {
    const name = this.nameOf(key);
    const { count, until } = await inPlainTransaction(this.orm, async (statements) => {
      const { moment } = statements;
      const [hits] = (await execute(
        statements,
        hitsHolds,
        `insert into hits (name, count, until) values (?, 1, ${moment} + ?)
         on conflict (name) do update set
           count = case when hits.until <= ${moment} then 1 else hits.count + 1 end,
           until = case when hits.until <= ${moment} then excluded.until else hits.until end
         returning count, until`,
        [name, this.span],
      )) as { count: number; until: number }[];
      return hits!;
    });
    // The next to begin removes what has expired; nobody waits for it.
    if (count === 1) void this.sweep().catch(() => undefined);
    return { totalHits: count, resetTime: new Date(until) };
  }

  /** After the answer, when nobody waits: a database that is away leaves it counted, and must not end the process. */
  async decrement(key: string): Promise<void> {
    await inPlainTransaction(this.orm, (statements) =>
      execute(statements, hitsHolds, 'update hits set count = count - 1 where name = ? and count > 0', [
        this.nameOf(key),
      ]),
    ).catch(() => undefined);
  }

  async resetKey(key: string): Promise<void> {
    await inPlainTransaction(this.orm, (statements) =>
      execute(statements, hitsHolds, 'delete from hits where name = ?', [this.nameOf(key)]),
    );
  }

  private readonly nameOf = (key: string): string => `${this.what} ${key}`;

  private sweep(): Promise<unknown> {
    return inPlainTransaction(this.orm, (statements) =>
      execute(statements, hitsHolds, `delete from hits where until <= ${statements.moment}`, []),
    );
  }
}

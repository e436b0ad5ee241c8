/** The log of acts, of a course for its owners and of all for administrators: read in pages, filtered, and as a table. */
import type { Actor } from '@zest-bell/core/access';
import { contract, endpoints, SENT } from '@zest-bell/core/contract';
import { rowsOf } from '../platform/database/query.ts';
import { aboutWords, type ActLine, type ActsAnswer } from '@zest-bell/core/exchange';
import { csvText, dateTime, number, text } from '@zest-bell/core/exports';
import type { FilterQuery } from '@mikro-orm/core';
import type { Em } from '../platform/database/orm.ts';
import { actorNames } from './audit.ts';
import type { Door } from './door.ts';
import { ActRow } from './entity.ts';
import { SAYS_BESIDE_REQUESTS } from './signInLog.ts';
import type { AccountOptions, AccountServices } from './signIn.ts';

const SAYS = new Map(endpoints.map(({ module, name, endpoint }) => [`${module}.${name}`, endpoint.says]));
/** Acts that are read at a time for a table of all. */
const PAGE_OF_FILE = 2000;
/** Acts among which the last about one thing is looked for. */
const LOOKED_AT = 200;

interface AuditQuery {
  readonly course: number | null;
  readonly by?: string | undefined;
  readonly act?: string | undefined;
  readonly after?: number | undefined;
  readonly limit: number;
}

/** Everybody who is in a log, by the name of today: to choose from, and to find by. */
async function peopleOf(em: Em, course: number | null): Promise<ReadonlyMap<Actor, string>> {
  const distinct = em.getKnex()('act').distinct('by');
  if (course !== null) void distinct.where({ course });
  const actors = (await rowsOf<{ by: Actor }>(em, distinct)).map((r) => r.by);
  const name = await actorNames(em, actors);
  return new Map(actors.map((actor) => [actor, name(actor)]));
}

async function actsOf(em: Em, wanted: AuditQuery, titlesOf: AccountOptions['titlesOf']): Promise<ActsAnswer> {
  const ofCourse: FilterQuery<ActRow> = wanted.course === null ? {} : { course: wanted.course };
  // Further pages show the same people: they are looked for where somebody chooses, or one of them was chosen.
  const asksFor = wanted.after === undefined || wanted.by !== undefined;
  const people = asksFor ? await peopleOf(em, wanted.course) : new Map<Actor, string>();
  const where: FilterQuery<ActRow> = {
    ...ofCourse,
    ...(wanted.after === undefined ? {} : { id: { $lt: wanted.after } }),
    ...(wanted.act === undefined ? {} : { act: wanted.act.includes('.') ? wanted.act : { $like: `${wanted.act}.%` } }),
    ...(wanted.by === undefined
      ? {}
      : { by: { $in: [...people].filter(([, name]) => name === wanted.by).map(([actor]) => actor) } }),
  };
  const order = { orderBy: { id: 'desc' }, limit: wanted.limit + 1, disableIdentityMap: true } as const;
  const rows = await em.find(ActRow, where, order);
  const page = rows.slice(0, wanted.limit);
  const name = await actorNames(
    em,
    page.map((r) => r.by),
  );
  const titles =
    wanted.course === null
      ? new Map((await titlesOf(em, [...new Set(page.flatMap((r) => r.course ?? []))])).map((c) => [c.id, c.code]))
      : new Map<number, string>();
  return {
    acts: page.map((row): ActLine => {
      const { id, at, act, about, from } = row;
      const course = titles.get(row.course ?? 0) ?? null;
      return {
        id,
        at,
        by: name(row.by),
        act,
        says: SAYS.get(act) ?? SAYS_BESIDE_REQUESTS[act] ?? act,
        count: row.count,
        about,
        from,
        course,
      };
    }),
    next: rows.length > wanted.limit ? page.at(-1)!.id : null,
    people: [...new Set(people.values())].sort(),
  };
}

/** Times in UTC: acts are of no course’s zone. */
const actsTable = (acts: readonly ActLine[]): string =>
  csvText({
    name: 'acts',
    zone: 'UTC',
    columns: [dateTime('When'), text('Who'), text('What'), text('About'), text('From'), number('Times')],
    rows: acts.map(({ at, by, says, about, from, count }) => [at, by, says, aboutWords(about), from, count]),
  });

export function actRoutes(door: Door, { reading }: AccountServices, { titlesOf }: AccountOptions): void {
  door.on(contract.people.acts, ({ course, query }) => actsOf(reading.em.fork(), { ...query, course }, titlesOf));
  door.on(contract.admin.acts, ({ query }) => actsOf(reading.em.fork(), { ...query, course: null }, titlesOf));

  door.on(contract.people.lastChange, async ({ course, query: { what, of } }) => {
    const em = reading.em.fork();
    const order = {
      orderBy: { id: 'desc' },
      limit: of === undefined ? 1 : LOOKED_AT,
      disableIdentityMap: true,
    } as const;
    const rows = await em.find(
      ActRow,
      { course, act: { $in: what === 'wording.change' ? [what, 'wording.publish'] : [what] } },
      order,
    );
    const row = rows.find((r) => of === undefined || r.about['wording'] === of);
    const name = await actorNames(em, [row?.by]);
    return { by: row ? name(row.by) : null, at: row?.at ?? null };
  });

  door.on(contract.people.actsFile, async ({ course, query, res }) => {
    res.attachment('acts.csv').type('text/csv; charset=utf-8');
    for (let after: number | undefined, isFirst = true; !res.destroyed; isFirst = false) {
      const em = reading.em.fork();
      const { acts, next } = await actsOf(em, { ...query, course, after, limit: PAGE_OF_FILE }, titlesOf);
      const table = actsTable(acts);
      res.write(isFirst ? table : table.slice(table.indexOf('\r\n') + 2));
      if (next === null) break;
      after = next;
    }
    res.end();
    return SENT;
  });
}

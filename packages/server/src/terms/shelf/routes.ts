/** The shelf: what is offered to all courses, putting something there, taking it as a draft, and retiring it. */
import { contract } from '@zest-bell/core/contract';
import { grouped } from '@zest-bell/core/course';
import type { ShelfAnswer, ShelfItem, ShelfStanding } from '@zest-bell/core/exchange';
import { courseWords, withoutCourse } from '@zest-bell/core/shelf';
import { actorNames } from '../../access/audit.ts';
import type { Door, EndpointCall } from '../../access/door.ts';
import { inInstallation } from '../../access/holding.ts';
import { installationOf } from '../../access/installation.ts';
import { idOf } from '../../access/pathIds.ts';
import { mayKeepShelf } from '../../access/permissions.ts';
import { inCourse } from '../../course/lock.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { updateRows } from '../../platform/database/writing.ts';
import { shownBy, wallClock } from '../../platform/process/clock.ts';
import { ShelfCopyRow, ShelfItemRow, ShelfVersionRow, shelfCopyHolds, shelfItemHolds } from './entity.ts';
import {
  asInCourse,
  contentOf,
  courseParts,
  lastDocuments,
  nameOfContent,
  putOnShelf,
  takeFromShelf,
} from './shelf.ts';

const MOST_ITEMS = 500;
const UNNAMED = 'your institution';
const FRESH = { disableIdentityMap: true } as const;

type Reader = Pick<EndpointCall<typeof contract.shelf.standing>, 'course' | 'account' | 'req'>;

/** Of each thing on the shelf, by its id, its versions: the last first, without their documents. */
interface KnownVersions {
  readonly versions: ReadonlyMap<string, readonly Pick<ShelfVersionRow, 'version' | 'note' | 'by' | 'at'>[]>;
}

export function shelfRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, live, clock } = services;

  /** Of a launch nobody keeps anything for all. Throws `notAllowed`. */
  const mustKeep = async (account: number, isLaunched: boolean) => {
    if (isLaunched || !(await mayKeepShelf(reading.em.fork(), account))) throw new AppError('notAllowed');
  };

  const standingOf = async (em: Em, { course, account, req }: Reader): Promise<ShelfStanding & KnownVersions> => {
    const rows = await em.find(ShelfItemRow, {}, { ...FRESH, orderBy: { name: 'asc', id: 'asc' }, limit: MOST_ITEMS });
    const fields = ['item', 'version', 'note', 'by', 'at'] as const;
    const versions = grouped(
      await em.find(ShelfVersionRow, {}, { ...FRESH, fields, orderBy: { version: 'desc' } }),
      (v) => String(v.item),
    );
    const copies = await em.find(ShelfCopyRow, { course }, FRESH);
    return {
      college: (await installationOf(em)).name || UNNAMED,
      mayKeep: req.session.launch === undefined && (await mayKeepShelf(em, account)),
      items: rows.map(({ id, kind, name, version, retiredAt }) => ({
        id,
        kind,
        name,
        note: versions.get(String(id))![0]!.note,
        version,
        isRetired: retiredAt != null,
      })),
      copies: copies.map(({ kind, key, item, version }) => ({ kind, key, item, version })),
      versions,
    };
  };

  door.on(contract.shelf.standing, async (call) => {
    const { versions: _versions, ...standing } = await standingOf(reading.em.fork(), call);
    return standing;
  });

  door.on(contract.shelf.all, async (call): Promise<ShelfAnswer> => {
    const em = reading.em.fork();
    const { versions, ...standing } = await standingOf(em, call);
    const course = await live.get(em, call.course);
    const there = await courseParts(em, call.course);
    const nameOf = await actorNames(
      em,
      [...versions.values()].flat().map((v) => v.by),
    );
    const documents = await lastDocuments(em, standing.items);
    return {
      ...standing,
      items: standing.items.map((item): ShelfItem => {
        const told = versions
          .get(String(item.id))!
          .map((v) => ({ version: v.version, note: v.note, by: nameOf(v.by), at: shownBy(clock, v.at) }));
        const { by, at } = told[0]!;
        return { ...item, by, at, versions: told, ...asInCourse(documents.get(item.id)!, course, there, clock.now()) };
      }),
    };
  });

  door.on(contract.shelf.look, async ({ course: id, body: { kind, key } }) => {
    const em = reading.em.fork();
    const { course } = await live.get(em, id);
    const content = withoutCourse(await contentOf(em, id, kind, key), course);
    return { name: nameOfContent(content), ...content, words: courseWords(content, course) };
  });

  door.on(contract.shelf.put, async ({ course: id, account, actor, body, req }) => {
    await mustKeep(account, req.session.launch !== undefined);
    return putOnShelf({ orm, reading, live }, { course: id, by: actor, ...body });
  });

  door.on(contract.shelf.take, async ({ course: id, account, path }) =>
    inCourse(orm, id, (tx) => takeFromShelf(tx, { live, clock }, { course: id, account, item: idOf(path.item) })),
  );

  door.on(contract.shelf.seen, async ({ course: id, path, body: { kind, key } }) => {
    await inCourse(orm, id, async (tx) => {
      const row = await tx.findOne(ShelfItemRow, { id: idOf(path.item) });
      const copy = { course: id, kind, key, item: idOf(path.item) };
      if (!row || (await updateRows(tx, shelfCopyHolds, copy, { version: row.version })) === 0)
        throw new AppError('notFound');
    });
  });

  door.on(contract.shelf.retire, async ({ account, path, body: { isRetired }, req }) => {
    await mustKeep(account, req.session.launch !== undefined);
    const retiredAt = isRetired ? wallClock() : null;
    const done = await inInstallation(orm, (tx) =>
      updateRows(tx, shelfItemHolds, { id: idOf(path.item) }, { retiredAt }),
    );
    if (done === 0) throw new AppError('notFound');
  });
}

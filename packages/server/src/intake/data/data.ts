/** How a course is fed: how fresh each source is, files so far, the platform's secrets, its folder, and what its statements mean. */
import { inCourse } from '../../course/lock.ts';
import { basename } from 'node:path';
import { z } from 'zod';
import { SOURCES } from '@zest-bell/core/course';
import type { DataAnswer, ImportCard, WaitingGroup } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { hasFeedToken, replaceFeedToken } from '../../access/tokens.ts';
import { ChangeRow } from '../changes/entity.ts';
import { courseHolds } from '../../course/entity.ts';
import { lastHeardFrom, staleSources } from '../../course/waiting.ts';
import { ImportRow } from '../changes/importRow.ts';
import { folderOf } from '../imports/folder.ts';
import { lowered } from '../imports/read.ts';
import { parseInput } from '../../platform/http/http.ts';
import { rowsOf } from '../../platform/database/query.ts';
import { rulesBySource } from '../../rules/sources.ts';
import type { IntakeServices } from '../services.ts';
import { StatementRow } from '../statements/entity.ts';
import { tryWaiting } from '../statements/store.ts';
import { actorNames, type ActorName } from '../../access/audit.ts';
import { updateRows } from '../../platform/database/writing.ts';

/** Cards of imports on the page. */
const PAGE = 30;
/** Groups of waiting statements on the page. */
const MOST_GROUPS = 200;

export function dataRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, live, clock } = services;

  door.on(contract.intake.data, async ({ course: id }) => {
    const em = reading.em.fork();
    const { row } = await live.get(em, id);
    const rows = await em.find(ImportRow, { course: id }, { orderBy: { id: 'desc' }, limit: PAGE });
    const undone = new Set(
      (
        await em.find(
          ChangeRow,
          { course: id, id: { $in: rows.flatMap((r) => r.change ?? []) }, undoneBy: { $ne: null } },
          { fields: ['id'] },
        )
      ).map((c) => c.id),
    );
    const stale = staleSources(row, clock.now());
    const name = await actorNames(
      em,
      rows.map((r) => r.by),
    );
    const counts = await rulesBySource(em, id);
    return {
      sources: SOURCES.map((source) => ({
        source,
        heardAt: lastHeardFrom(row, source),
        stale: stale.has(source),
        rules: counts.get(source) ?? 0,
      })),
      imports: rows.map((r) => cardOf(r, undone, name)),
      waiting: await em.count(StatementRow, { course: id, state: 'waiting', voided: false }),
      folder: { watched: row.watched, path: folderOf(basename(services.folder), row) },
      endpoint: {
        path: `/xapi/${id}/statements`,
        key: `course-${id}`,
        hasSecret: await hasFeedToken(em, id, 'statements'),
      },
    } satisfies DataAnswer;
  });

  /** A new secret for the platform; it is shown once, and the one before is worth nothing from then on. */
  door.on(contract.intake.secret, async ({ course: id, req, account }) => {
    const { of } = parseInput(z.strictObject({ of: z.enum(['activity', 'statements']) }), req.body);
    const { secret } = await inCourse(orm, id, (tx) => replaceFeedToken(tx, id, of, account));
    return { secret };
  });

  door.on(contract.intake.folder, async ({ course: id, req }) => {
    const { watched } = parseInput(z.strictObject({ watched: z.boolean() }), req.body);
    await inCourse(orm, id, (em) => updateRows(em, courseHolds, { id }, { watched }));
  });

  door.on(contract.intake.meanings, async ({ course: id }) => {
    const { row } = await live.get(reading.em.fork(), id);
    return row.meanings;
  });

  door.on(contract.intake.setMeanings, async ({ course: id, body: { verbs, ...choices } }) => {
    const taken = await inCourse(orm, id, async (em) => {
      const low = lowered({ choices }).choices;
      await updateRows(em, courseHolds, { id }, { meanings: { ...(verbs ? { verbs } : {}), ...low } });
      return tryWaiting(em, await live.get(em, id), clock.now());
    });
    return { taken };
  });

  /** Statements that wait, by what keeps them. */
  door.on(contract.intake.waiting, async ({ course: id }) => {
    const em = reading.em.fork();
    const query = em
      .getKnex()('statement')
      .select('about', 'said')
      .min({ why: 'why' })
      .count({ count: '*' })
      .where({ course: id, state: 'waiting', voided: false })
      .groupBy('about', 'said')
      .orderBy('count', 'desc')
      .limit(MOST_GROUPS);
    const rows = await rowsOf<{
      about: WaitingGroup['about'] | null;
      said: string | null;
      why: string | null;
      count: number;
    }>(em, query);
    return rows.map((r): WaitingGroup => ({
      about: r.about ?? 'other',
      said: r.said ?? r.why ?? '',
      why: r.why ?? '',
      count: Number(r.count),
    }));
  });
}

const cardOf = (row: ImportRow, undone: ReadonlySet<number>, name: ActorName): ImportCard => ({
  id: row.id,
  name: row.name,
  at: row.at,
  by: name(row.by),
  way: row.way,
  state: row.state,
  counts: row.report?.counts ?? null,
  kind: row.report?.kind ?? null,
  trouble: row.trouble ?? null,
  change: row.change ?? null,
  undone: row.change != null && undone.has(row.change),
});

/** How a course is fed: how fresh each source is, files so far, the platform's secrets, its folder, and what its statements mean. */
import { randomBytes } from 'node:crypto';
import { basename } from 'node:path';
import { Router } from 'express';
import { z } from 'zod';
import { SOURCES, VERB_MEANINGS, type DataAnswer, type ImportCard, type WaitingGroup } from '@zest-bell/core';
import { courseOf } from '../../accounts/routes.ts';
import { tokenHash } from '../../activity/ingest.ts';
import { ChangeRow } from '../../changes/entity.ts';
import { CourseRow } from '../../course/entity.ts';
import { heardOf, staleSources } from '../../course/waiting.ts';
import { ImportRow } from '../../imports/entity.ts';
import { folderOf } from '../../imports/folder.ts';
import { lowered } from '../../imports/read.ts';
import { parseInput } from '../../platform/http.ts';
import { rowsOf } from '../../platform/query.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { rulesBySource } from '../../rules/sources.ts';
import type { Services } from '../../services.ts';
import { StatementRow } from '../../statements/entity.ts';
import { tryWaiting } from '../../statements/store.ts';
import { itemChoiceSchema } from './imports.ts';

/** Cards of imports on the page. */
const PAGE = 30;
/** Groups of waiting statements on the page. */
const MOST_GROUPS = 200;

const meaningsSchema = z.strictObject({
  verbs: z.record(z.string().max(2000), z.enum(VERB_MEANINGS)).optional(),
  people: z.record(z.string().max(2000), z.string().max(500)).optional(),
  items: z.record(z.string().max(2000), itemChoiceSchema).optional(),
});

export function dataRoutes(services: Services): Router {
  const { orm, reading, live, clock } = services;
  const router = Router({ mergeParams: true });

  router.get('/data', async (req, res) => {
    const id = await courseOf(reading, req);
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
    const counts = await rulesBySource(em, id);
    res.json({
      sources: SOURCES.map((source) => ({
        source,
        heardAt: heardOf(row, source),
        stale: stale.has(source),
        rules: counts.get(source) ?? 0,
      })),
      imports: rows.map((r) => cardOf(r, undone)),
      waiting: await em.count(StatementRow, { course: id, state: 'waiting', voided: false }),
      folder: { watched: row.watched, path: folderOf(basename(services.folder), row) },
      endpoint: { path: `/xapi/${id}/statements`, key: `course-${id}`, hasSecret: row.statementHash != null },
    } satisfies DataAnswer);
  });

  /** A new secret for the platform; it is shown once, and the one before is worth nothing from then on. */
  router.post('/data/secret', async (req, res) => {
    const id = await courseOf(reading, req);
    const { of } = parseInput(z.strictObject({ of: z.enum(['activity', 'statements']) }), req.body);
    const secret = randomBytes(24).toString('base64url');
    const hash = tokenHash(secret);
    await inTransaction(orm, (em) =>
      em.nativeUpdate(CourseRow, { id }, of === 'activity' ? { tokenHash: hash } : { statementHash: hash }),
    );
    res.json({ secret });
  });

  router.put('/data/folder', async (req, res) => {
    const id = await courseOf(reading, req);
    const { watched } = parseInput(z.strictObject({ watched: z.boolean() }), req.body);
    await inTransaction(orm, (em) => em.nativeUpdate(CourseRow, { id }, { watched }));
    res.status(204).end();
  });

  router.get('/data/meanings', async (req, res) => {
    const id = await courseOf(reading, req);
    const { row } = await live.get(reading.em.fork(), id);
    res.json(row.meanings);
  });

  router.put('/data/meanings', async (req, res) => {
    const id = await courseOf(reading, req);
    const { verbs, ...choices } = parseInput(meaningsSchema, req.body);
    const taken = await inTransaction(orm, async (em) => {
      const low = lowered({ choices }).choices;
      await em.nativeUpdate(CourseRow, { id }, { meanings: { ...(verbs ? { verbs } : {}), ...low } });
      return tryWaiting(em, await live.get(em, id), clock.now());
    });
    res.json({ taken });
  });

  /** Statements that wait, by what keeps them. */
  router.get('/statements/waiting', async (req, res) => {
    const id = await courseOf(reading, req);
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
    res.json(
      rows.map((r): WaitingGroup => ({
        about: r.about ?? 'other',
        said: r.said ?? r.why ?? '',
        why: r.why ?? '',
        count: Number(r.count),
      })),
    );
  });

  return router;
}

const cardOf = (row: ImportRow, undone: ReadonlySet<number>): ImportCard => ({
  id: row.id,
  name: row.name,
  at: row.at,
  by: row.by,
  way: row.way,
  state: row.state,
  counts: row.report?.counts ?? null,
  kind: row.report?.kind ?? null,
  trouble: row.trouble ?? null,
  change: row.change ?? null,
  undone: row.change != null && undone.has(row.change),
});

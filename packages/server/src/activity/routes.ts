/** The public ingestion route: a learning platform tells what people did, with the course's token. */
import { json, Router } from 'express';
import { CourseRow } from '../course/entity.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Services } from '../platform/services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { ingest, ingestSchema, tokenHash } from './ingest.ts';

export function activityRoutes({ orm, live, clock }: Services): Router {
  const router = Router();
  router.post('/activity', json({ limit: '8mb' }), async (req, res) => {
    const token = /^Bearer (\S+)$/.exec(req.get('authorization') ?? '')?.[1];
    const em = orm.em.fork();
    const row = token ? await em.findOne(CourseRow, { tokenHash: tokenHash(token) }) : null;
    if (!row) throw new AppError('tokenNeeded');
    const input = parseInput(ingestSchema, req.body);
    const { course } = await live.get(em, row.id);
    const answer = await inTransaction(orm, async (tx) => {
      const now = clock.now();
      // An empty delivery counts too: the platform is there, and nothing happened.
      await tx.nativeUpdate(CourseRow, { id: row.id }, { heardAt: now });
      return ingest(tx, input, course, row.id, now);
    });
    res.json(answer);
  });
  return router;
}

/** The public ingestion route: a learning platform tells what people did, with the course's token. */
import { json, Router, type Request, type RequestHandler } from 'express';
import { CourseRow } from '../course/entity.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Services } from '../services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { ingest, ingestSchema, readInput, tokenHash } from './ingest.ts';

export function activityRoutes({ orm, reading, live, clock }: Services): Router {
  const router = Router();
  const courseOfToken = async (req: Request): Promise<number> => {
    const token = /^Bearer (\S+)$/.exec(req.get('authorization') ?? '')?.[1];
    const row = token ? await reading.em.fork().findOne(CourseRow, { tokenHash: tokenHash(token) }) : null;
    if (!row) throw new AppError('tokenNeeded');
    return row.id;
  };
  // The token is looked at before anything of the body is read.
  const known: RequestHandler = async (req, res, next) => {
    res.locals['course'] = await courseOfToken(req);
    next();
  };

  router.post('/activity', known, json({ limit: '8mb' }), async (req, res) => {
    const id = res.locals['course'] as number;
    const input = parseInput(ingestSchema, req.body);
    const { course } = await live.get(orm.em.fork(), id);
    const read = await readInput(input, course, clock.now());
    const answer = await inTransaction(orm, async (em) => {
      // An empty delivery counts too: the platform is there, and nothing happened.
      await em.nativeUpdate(CourseRow, { id }, { heardAt: clock.now() });
      return ingest(em, read, id);
    });
    res.json(answer);
  });
  return router;
}

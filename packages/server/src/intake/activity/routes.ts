/** The public ingestion route: a learning platform tells what people did, with the course's token. */
import { inCourse } from '../../course/lock.ts';
import { json, type Request, type RequestHandler } from 'express';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { CourseRow } from '../../course/entity.ts';
import { AppError } from '../../platform/http/errors.ts';
import type { Services } from '../services.ts';
import { ingest, readInput, tokenHash } from './ingest.ts';

export function activityRoutes(door: Door, { orm, reading, live, clock }: Services): void {
  const courseOfToken = async (req: Request): Promise<number> => {
    const token = /^Bearer (\S+)$/.exec(req.get('authorization') ?? '')?.[1];
    const row = token ? await reading.em.fork().findOne(CourseRow, { tokenHash: tokenHash(token) }) : null;
    if (!row) throw new AppError('tokenNeeded');
    if (row.archivedAt != null) throw new AppError('courseArchived');
    return row.id;
  };
  // The token is looked at before anything of the body is read.
  const known: RequestHandler = async (req, res, next) => {
    res.locals['course'] = await courseOfToken(req);
    next();
  };

  door.on(
    contract.intake.activity,
    async ({ course: id, body }) => {
      const { course } = await live.get(orm.em.fork(), id);
      const read = await readInput(body, course, clock.now());
      return inCourse(orm, id, async (em) => {
        // An empty delivery counts too: the platform is there, and nothing happened.
        await em.nativeUpdate(CourseRow, { id }, { heardAt: clock.now() });
        return ingest(em, read, id);
      });
    },
    { guards: [known], reader: json({ limit: '8mb' }) },
  );
}

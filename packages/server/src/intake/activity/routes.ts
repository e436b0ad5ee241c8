/** The public ingestion route: a learning platform tells what people did, with a token of the course. */
import { inCourse } from '../../course/lock.ts';
import { json } from 'express';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { CourseRow } from '../../course/entity.ts';
import type { Services } from '../services.ts';
import { ingest, readInput } from './ingest.ts';

export function activityRoutes(door: Door, { orm, live, clock }: Services): void {
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
    { reader: json({ limit: '8mb' }) },
  );
}

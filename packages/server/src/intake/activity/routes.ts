/** The public ingestion route: a learning platform tells what people did, with a token of the course. */
import { inCourse } from '../../course/lock.ts';
import { json } from 'express';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { courseHolds } from '../../course/entity.ts';
import type { IntakeServices } from '../services.ts';
import { ingest, readInput } from './ingest.ts';
import { updateRows } from '../../platform/database/writing.ts';

export function activityRoutes(door: Door, { orm, reading, live, clock }: IntakeServices): void {
  door.on(
    contract.intake.activity,
    async ({ course: id, body }) => {
      const known = await live.get(reading.em.fork(), id);
      const read = await readInput(body, known.course, clock.now());
      return inCourse(orm, id, async (em, { version }) => {
        // Who was on the roster a moment ago may have been erased before the course was ours: then each row is looked at again.
        const fits =
          version === known.row.version ? read : await readInput(body, (await live.get(em, id)).course, clock.now());
        // An empty delivery counts too: the platform is there, and nothing happened.
        await updateRows(em, courseHolds, { id }, { heardAt: clock.now() });
        return ingest(em, fits, id);
      });
    },
    { reader: json({ limit: '8mb' }) },
  );
}

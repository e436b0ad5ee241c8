/** The endpoint of Caliper Analytics (1EdTech, 1.1 and 1.2): a platform sends envelopes of events, with a token of the course. */
import { json, Router } from 'express';
import { z } from 'zod';
import { CALIPER_VERSIONS, caliperEnvelope, caliperEvent, type CaliperEvent } from '@zest-bell/core/imports';
import { bearerOf } from '../../access/tokens.ts';
import type { IntakeServices } from '../services.ts';
import { courseOf, noSuchResource, StatementRefused, refusals, withToken } from './entrance.ts';
import { keepCaliper } from './store.ts';
import { inCourse } from '../../course/lock.ts';

export function caliperRoutes(services: IntakeServices): Router {
  const { orm, live, clock } = services;
  const router = Router({ mergeParams: true });

  router.post(
    '/',
    withToken(services, { secretOf: bearerOf, challenge: 'Bearer realm="Zest Bell"' }),
    (req, _res, next) =>
      next(
        req.is('application/json') === false
          ? new StatementRefused(415, 'Send an envelope as application/json.')
          : undefined,
      ),
    json({ limit: '8mb' }),
    async (req, res) => {
      const course = courseOf(res);
      const envelope = caliperEnvelope.safeParse(req.body);
      if (!envelope.success) throw new StatementRefused(400, firstOf(envelope.error));
      const { dataVersion, data } = envelope.data;
      if (!CALIPER_VERSIONS.includes(dataVersion))
        throw new StatementRefused(422, `dataVersion: Send ${CALIPER_VERSIONS.join(' or ')}.`);
      const events: CaliperEvent[] = [];
      for (const [i, one] of data.entries()) {
        try {
          const event = caliperEvent(one);
          if (event) events.push(event);
        } catch (error) {
          throw error instanceof z.ZodError ? new StatementRefused(400, `data[${i}].${firstOf(error)}`) : error;
        }
      }
      const now = clock.now();
      await inCourse(orm, course, async (em) => keepCaliper(em, await live.get(em, course), events, now));
      res.status(202).end();
    },
  );

  router.use(noSuchResource, refusals(services));
  return router;
}

const firstOf = ({ issues }: z.ZodError): string =>
  `${issues[0]?.path.join('.') || 'The envelope'}: ${issues[0]?.message ?? 'does not fit'}.`;

/** The endpoint of Caliper Analytics (1EdTech, 1.1 and 1.2): a platform sends envelopes of events, with a token of the course. */
import { json, Router, type ErrorRequestHandler } from 'express';
import { z } from 'zod';
import { CALIPER_VERSIONS, caliperEnvelope, caliperEvent, type CaliperEvent } from '@zest-bell/core/imports';
import { bearerOf, tokenOf, used } from '../../access/tokens.ts';
import { CourseRow } from '../../course/entity.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import type { Services } from '../services.ts';
import { keepCaliper } from './store.ts';

class Refused extends Error {
  readonly status: number;
  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

export function caliperRoutes({ orm, reading, live, clock, logger }: Services): Router {
  const router = Router({ mergeParams: true });

  router.post(
    '/',
    async (req, res, next) => {
      const em = reading.em.fork();
      const secret = bearerOf(req);
      const token = secret === null ? null : await tokenOf(em, secret);
      if (!token || String(token.course) !== String((req.params as { course?: string }).course)) {
        res.set('WWW-Authenticate', 'Bearer realm="Zest Bell"');
        throw new Refused(401, 'The token does not fit this course.');
      }
      if (!token.capabilities.includes('data.write')) throw new Refused(403, 'This token may not send data.');
      used(orm, token);
      const row = await em.findOneOrFail(CourseRow, { id: token.course }, { fields: ['archivedAt'] });
      if (row.archivedAt != null) throw new Refused(409, 'This course is archived and takes no events.');
      if (req.is('application/json') === false) throw new Refused(415, 'Send an envelope as application/json.');
      res.locals['course'] = token.course;
      next();
    },
    json({ limit: '8mb' }),
    async (req, res) => {
      const course = res.locals['course'] as number;
      const envelope = caliperEnvelope.safeParse(req.body);
      if (!envelope.success) throw new Refused(400, firstOf(envelope.error));
      const { dataVersion, data } = envelope.data;
      if (!CALIPER_VERSIONS.includes(dataVersion))
        throw new Refused(422, `dataVersion: Send ${CALIPER_VERSIONS.join(' or ')}.`);
      const events: CaliperEvent[] = [];
      for (const [i, one] of data.entries()) {
        try {
          const event = caliperEvent(one);
          if (event) events.push(event);
        } catch (error) {
          throw error instanceof z.ZodError ? new Refused(400, `data[${i}].${firstOf(error)}`) : error;
        }
      }
      const now = clock.now();
      await inTransaction(orm, async (em) => keepCaliper(em, await live.get(em, course), events, now));
      res.status(202).end();
    },
  );

  router.use((_req, _res, next) => next(new Refused(404, 'There is no such resource.')));
  const problems: ErrorRequestHandler = (error: unknown, _req, res, _next) => {
    const { status: said } = (error ?? {}) as { status?: number };
    const status = said !== undefined && said >= 400 && said < 500 ? said : 500;
    if (status === 500) logger.error({ err: error }, 'events could not be stored');
    res
      .status(status)
      .json({ error: status === 500 ? 'Something went wrong. Send it again later.' : (error as Error).message });
  };
  router.use(problems);
  return router;
}

const firstOf = ({ issues }: z.ZodError): string =>
  `${issues[0]?.path.join('.') || 'The envelope'}: ${issues[0]?.message ?? 'does not fit'}.`;

/** The way in for what platforms send by standards of their own: a token of the course, and refusals as a sentence. */
import type { ErrorRequestHandler, Request, RequestHandler, Response } from 'express';
import { tokenOf, used } from '../../access/tokens.ts';
import { CourseRow } from '../../course/entity.ts';
import type { IntakeServices } from '../services.ts';

/** What the sender has to mend, in a sentence. */
export class StatementRefused extends Error {
  readonly status: number;
  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

export interface Entrance {
  /** The secret of a request; null for none. */
  readonly secretOf: (req: Request) => string | null;
  /** What is asked for where it does not fit (RFC 9110, 11.6.1). */
  readonly challenge: string;
}

/** A program with a token of the course in the path. Sending data takes `data.write`; reading it back, which names people, `course.read`. */
export const withToken =
  ({ orm, reading }: Pick<IntakeServices, 'orm' | 'reading'>, { secretOf, challenge }: Entrance): RequestHandler =>
  async (req, res, next) => {
    const em = reading.em.fork();
    const secret = secretOf(req);
    const token = secret === null ? null : await tokenOf(em, secret);
    if (!token || String(token.course) !== String(req.params['course'])) {
      res.set('WWW-Authenticate', challenge);
      throw new StatementRefused(401, 'The secret does not fit this course.');
    }
    const isReading = req.method === 'GET' || req.method === 'HEAD';
    if (!token.capabilities.includes(isReading ? 'course.read' : 'data.write'))
      throw new StatementRefused(403, isReading ? 'This token may not read data.' : 'This token may not send data.');
    used(orm, token);
    if (isReading) {
      res.locals['course'] = token.course;
      return next();
    }
    const row = await em.findOneOrFail(CourseRow, { id: token.course }, { fields: ['archivedAt'] });
    if (row.archivedAt != null) throw new StatementRefused(409, 'This course is archived and takes no data.');
    res.locals['course'] = token.course;
    next();
  };

export const courseOf = (res: Response): number => res.locals['course'] as number;

export const noSuchResource: RequestHandler = (_req, _res, next) =>
  next(new StatementRefused(404, 'There is no such resource.'));

/** What went wrong, as a sentence; nothing of what is our own fault. */
export const refusals =
  ({ logger }: Pick<IntakeServices, 'logger'>): ErrorRequestHandler =>
  (error: unknown, _req, res, _next) => {
    const { status: said } = (error ?? {}) as { status?: number };
    const status = said !== undefined && said >= 400 && said < 500 ? said : 500;
    if (status === 500) logger.error({ err: error }, 'what a platform sent could not be stored');
    const message = status === 500 ? 'Something went wrong. Send it again later.' : (error as Error).message;
    res.status(status).json({ error: message });
  };

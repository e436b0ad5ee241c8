/** What is logged of requests: which, how it ended and how long it took, under an id, and nothing that names anybody. */
import { randomUUID } from 'node:crypto';
import type { Request, RequestHandler } from 'express';
import type { Logger } from 'pino';

/** An id given by a proxy in front of the server. */
const GIVEN = /^[\w-]{8,64}$/;

const ids = new WeakMap<Request, string>();

/** Under which id a request is in the log. */
export const requestIdOf = (req: Request): string => ids.get(req) ?? '';

/** The pattern of its path: a path itself may have anybody's id in it. */
export const routeOf = (req: Request): string => {
  const { path } = (req.route as { path?: string } | undefined) ?? {};
  return typeof path === 'string' ? `${req.baseUrl}${path}`.replace(/\/\d+(?=\/|$)/g, '/:id') : 'other';
};

/** Gives every request its id, which the answer carries as well, and logs how it ended. */
export const logged =
  (logger: Logger): RequestHandler =>
  (req, res, next) => {
    const given = req.get('x-request-id') ?? '';
    const id = GIVEN.test(given) ? given : randomUUID();
    ids.set(req, id);
    res.set('x-request-id', id);
    const from = performance.now();
    res.once('finish', () => {
      const ms = Math.round(performance.now() - from);
      logger.info({ request: id, method: req.method, route: routeOf(req), status: res.statusCode, ms }, 'answered');
    });
    next();
  };

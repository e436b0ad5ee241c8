/** What every route shares: RFC 9457 problem details, parsing by Zod, and the guard against forged requests. */
import { createHash } from 'node:crypto';
import express, { type ErrorRequestHandler, type Request, type RequestHandler, type Response } from 'express';
import { problemsOfIssues } from '@zest-bell/core/problem';
import type { Logger } from 'pino';
import type { z } from 'zod';
import { isDiskFull } from '../database/space.ts';
import { isUnreachable } from '../database/whenFree.ts';
import { AppError, ERRORS, type ErrorCode } from '../errors/errors.ts';
import { requestIdOf, routeOf } from './requests.ts';

/** What a signed-in browser holds. */
export const SESSION_COOKIE = 'zest-bell';
/** What a browser holds that a learning platform signed in: beside the other, as a browser keeps cookies of a frame apart. */
export const LAUNCH_COOKIE = 'zest-bell-launched';

/** Parses input or throws `invalidInput` with a problem a field. */
export function parseInput<T>(schema: z.ZodType<T>, input: unknown): T {
  const parsed = schema.safeParse(input);
  if (!parsed.success) throw new AppError('invalidInput', problemsOfIssues(parsed.error.issues));
  return parsed.data;
}

/** Answers with packed columns and a tag of the state they were read from; not sent again to a client that has that state. */
export function sendColumns(req: Request, res: Response, state: readonly unknown[], read: () => Uint8Array): void {
  const tag = createHash('sha256').update(state.join(' ')).digest('base64url').slice(0, 24);
  res.set('etag', `"${tag}"`);
  res.set('cache-control', 'private, no-cache');
  if (req.fresh) return void res.status(304).end();
  const bytes = read();
  res.type('application/octet-stream').send(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength));
}

const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[::1\])(:\d+)?$/i;

/** The application's own origin: where it is known under an address, that one's, else a name of this machine alone. */
export function ownOrigin(req: Request, publicUrl: string | null): string | null {
  if (publicUrl !== null) return new URL(publicUrl).origin;
  const host = req.get('host') ?? '';
  return LOOPBACK.test(host) ? `${req.protocol}://${host}` : null;
}

/**
 * Refuses what another site could make a browser send with the cookie that it holds: a browser says itself which page a request
 * comes from, and no page can say otherwise. Who has no session can be made to do nothing in one's name.
 */
export const sameSiteOnly =
  (publicUrl: string | null): RequestHandler =>
  (req, _res, next) => {
    const isReading = req.method === 'GET' || req.method === 'HEAD';
    if (isReading || !req.headers.cookie?.includes(`${SESSION_COOKIE}=`)) return next();
    const own = ownOrigin(req, publicUrl);
    const isOwn = (own !== null && req.get('origin') === own) || req.get('sec-fetch-site') === 'same-origin';
    next(isOwn ? undefined : new AppError('crossSiteRequest'));
  };

const readJson = express.json({ limit: '1mb' });

/** Reads a body of JSON. A body of anything else is refused, also where none is taken. */
export const jsonBody: RequestHandler = (req, res, next) => {
  if (hasBody(req) && !req.is('json')) return next(new AppError('invalidInput', [NO_JSON]));
  readJson(req, res, next);
};

/** RFC 9112, 6: typed from memory. */
const hasBody = (req: Request): boolean =>
  req.headers['transfer-encoding'] !== undefined || Number(req.headers['content-length'] ?? 0) > 0;

const NO_JSON = { path: '', code: 'noJson', message: 'The body of this request must be JSON (application/json)' };

function codeOf(error: unknown): ErrorCode {
  if (error instanceof AppError) return error.code;
  const { type, status } = (error ?? {}) as { type?: string; status?: number };
  if (type === 'entity.too.large') return 'inputTooLarge';
  if (isDiskFull(error)) return 'diskFull';
  if (isUnreachable(error)) return 'noDatabase';
  // A path, a charset or an encoding that cannot be read: the library says that the request is at fault.
  return status !== undefined && status >= 400 && status < 500 ? 'invalidInput' : 'internal';
}

export const problemDetails =
  (logger: Logger): ErrorRequestHandler =>
  (error: unknown, req, res, _next) => {
    const code = codeOf(error);
    const kind = ERRORS[code];
    if (code === 'internal' || code === 'diskFull')
      logger.error({ err: error, request: requestIdOf(req), route: routeOf(req) }, 'request failed');
    const body = {
      type: `https://zestbell.example/errors#${code}`,
      title: kind.title,
      status: kind.status,
      code,
      problems: error instanceof AppError ? error.problems : [],
    };
    if (kind.status === 429)
      logger.info(
        { event: 'refusedForNow', code, account: req.session?.account ?? null, address: req.ip ?? '' },
        'too many requests',
      );
    if (error instanceof AppError && error.retryAfter !== null) res.set('retry-after', String(error.retryAfter));
    // An answer in lines has begun: its last line says what went wrong.
    if (res.headersSent) return void res.end(`${JSON.stringify({ problem: body })}\n`);
    res.status(kind.status).type('application/problem+json').send(JSON.stringify(body));
  };

/** Lines of JSON: common practice, no standard names it. */
export const LINES_TYPE = 'application/x-ndjson';

/** An answer as lines of JSON, each sent at once: how far a computation is, what it has found so far, and at last its result. */
export function lineWriter(res: Response): (json: string) => void {
  return (json) => {
    if (!res.headersSent) res.type(LINES_TYPE);
    res.write(`${json}\n`);
    // The compression holds lines back until it is told otherwise.
    (res as Response & { flush?: () => void }).flush?.();
  };
}

/**
 * The one way in: each request of the contract is served here and nowhere else. Who asks, from where, of which course and with what
 * right is looked at before anything of the body is read; what is refused is refused in this order.
 */
import { Router, type Request, type RequestHandler, type Response } from 'express';
import { CAPABILITIES, type Capability } from '@zest-bell/core/access';
import { SENT, type Answering, type AnyEndpoint, type Asked, type Needs } from '@zest-bell/core/contract';
import { AppError } from '../platform/http/errors.ts';
import { jsonBody, parseInput, sameSiteOnly } from '../platform/http/http.ts';
import type { Em, Orm } from '../platform/database/orm.ts';
import { Account } from './entity.ts';
import { partIn, type Part } from './mine.ts';
import { accountOf, idOf } from './asking.ts';

export interface Call<E> extends Asked<E> {
  readonly req: Request;
  readonly res: Response;
  /** The course in the path, which its reader may enter; 0 where there is none. */
  readonly course: number;
  /** Throws `notAllowed` where the reader lacks what more a request needs once it is known what it is about. */
  readonly mustBeAllowed: (capability: Capability) => void;
}

/** What a request asks for beside what all do. */
export interface Besides {
  /** In place of the session, or before it: a limit of tries, a key. */
  readonly guards?: readonly RequestHandler[];
  /** What reads its body, in place of JSON of up to a megabyte. */
  readonly reader?: RequestHandler;
}

const NO_READER: RequestHandler = (_req, _res, next) => next();

const isCapability = (needs: Needs): needs is Capability => (CAPABILITIES as readonly string[]).includes(needs);

export class Door {
  readonly router = Router();
  /** What is served, as a test compares it with the contract. */
  readonly served: AnyEndpoint[] = [];
  private readonly reading: Orm;
  /** Whether a course is only read; what a course is, is said elsewhere. */
  private readonly isArchived: (em: Em, course: number) => Promise<boolean>;

  private readonly sameSite: RequestHandler;

  /** `publicUrl`: the address under which people reach the application, where it is known. */
  constructor(
    reading: Orm,
    isArchived: (em: Em, course: number) => Promise<boolean>,
    { publicUrl = null }: { readonly publicUrl?: string | null } = {},
  ) {
    this.reading = reading;
    this.sameSite = sameSiteOnly(publicUrl);
    this.isArchived = isArchived;
  }

  readonly on = <E extends AnyEndpoint>(
    endpoint: E,
    answer: (call: Call<E>) => Answering<E>,
    { guards = [], reader }: Besides = {},
  ): void => {
    this.served.push(endpoint);
    const method = endpoint.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
    const own: RequestHandler[] = endpoint.needs === 'key' ? [] : [this.known(endpoint.needs), this.sameSite];
    const takes = reader ?? (endpoint.method === 'GET' || endpoint.upload ? NO_READER : jsonBody);
    const path = endpoint.path.replace(/\{(\w+)\}/g, ':$1');
    this.router[method](path, ...guards, ...own, this.allowed(endpoint), takes, async (req, res) => {
      const { body, query } = endpoint;
      const asked = {
        ...{ req, res, path: req.params, account: req.session?.account ?? 0, course: courseIn(res) },
        mustBeAllowed: (capability: Capability) => {
          if (!partOf(res)?.may.has(capability)) throw new AppError('notAllowed');
        },
        query: query ? parseInput(query, req.query) : undefined,
        body: body ? parseInput(body, req.body ?? {}) : undefined,
      };
      const said = await answer(asked as unknown as Call<E>);
      if (said === SENT) return;
      if (endpoint.answer.form === 'nothing' || said === undefined)
        return void res.status(endpoint.answer.status).end();
      res.status(endpoint.answer.status).json(said);
    });
  };

  /** Somebody who is signed in with an account that is still there. */
  private known(needs: Needs): RequestHandler {
    return async (req, res, next) => {
      if (needs === 'open') return next();
      const account = await this.reading.em.fork().findOne(Account, { id: accountOf(req) });
      if (!account) throw new AppError('signInNeeded');
      res.locals['isAdministrator'] = account.isAdministrator;
      next();
    };
  }

  /** A course of one's own, else it does not exist for them; and what they may do in it. */
  private allowed({ needs, method, inArchive }: AnyEndpoint): RequestHandler {
    // What needs no more than reading changes nothing, however it is asked.
    const changes = method !== 'GET' && needs !== 'course.read' && !inArchive;
    return async (req, res, next) => {
      if (needs === 'administrator' && res.locals['isAdministrator'] !== true) throw new AppError('administratorsOnly');
      if (!isCapability(needs)) return next();
      const course = idOf(String(req.params['course']));
      const em = this.reading.em.fork();
      const part = await partIn(em, accountOf(req), course);
      if (!part) throw new AppError('notFound');
      if (!part.may.has(needs)) throw new AppError('notAllowed');
      if (changes && (await this.isArchived(em, course))) throw new AppError('courseArchived');
      Object.assign(res.locals, { course, part });
      next();
    };
  }
}

const partOf = (res: Response): Part | undefined => res.locals['part'] as Part | undefined;
const courseIn = (res: Response): number => (res.locals['course'] as number | undefined) ?? 0;

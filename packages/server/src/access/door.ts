/**
 * The one way in: each request of the contract is served here and nowhere else. Who asks, from where, of which course and with what
 * right is looked at before anything of the body is read; what is refused is refused in this order.
 */
import { Router, type Request, type RequestHandler, type Response } from 'express';
import { rateLimit } from 'express-rate-limit';
import { accountActor, CAPABILITIES, tokenActor, type Actor, type Capability } from '@zest-bell/core/access';
import {
  contract,
  SENT,
  type HandlerAnswer,
  type AnyEndpoint,
  type RequestArguments,
  type RequiredPermission,
} from '@zest-bell/core/contract';
import { AppError } from '../platform/errors/errors.ts';
import { countedIn } from '../platform/http/hits.ts';
import { jsonBody, parseInput, sameSiteOnly } from '../platform/http/http.ts';
import { admitted, RequestQueue } from '../platform/turns/requestQueue.ts';
import type { Em, Orm } from '../platform/database/orm.ts';
import { actOf, isAct, keepAct } from './audit.ts';
import { Account } from './entity.ts';
import { idOf } from './pathIds.ts';
import { partIn, reachingOnly } from './permissions.ts';
import type { LaunchSession } from './signIn.ts';
import { basicPasswordOf, bearerOf, tokenOf, used } from './tokens.ts';

export interface EndpointCall<E> extends RequestArguments<E> {
  readonly req: Request;
  readonly res: Response;
  /** The course in the path, or of the token, which its reader may enter; 0 if absent. */
  readonly course: number;
  /** Who asks, as it is kept of what they do. */
  readonly actor: Actor;
  /** Whether the reader may do more than a request needs. */
  readonly mayDo: (capability: Capability) => boolean;
  /** Throws `notAllowed` where the reader lacks what more a request needs once it is known what it is about. */
  readonly mustBeAllowed: (capability: Capability) => void;
}

/** What a request asks for beside what all do. */
export interface EndpointOptions {
  /** Before anything else: a limit of tries. */
  readonly guards?: readonly RequestHandler[];
  /** What reads its body, in place of JSON of up to a megabyte. */
  readonly reader?: RequestHandler;
  /** It takes a moment, and every page asks for it: it waits for no other request. */
  readonly isAtOnce?: boolean;
}

/** Who asks: an account, or a token of one course with what it may. */
interface Requester {
  readonly account: number;
  readonly actor: Actor;
  /** Under which its requests are counted. */
  readonly key: string;
  readonly isAdministrator: boolean;
  readonly token: { readonly course: number; readonly may: ReadonlySet<Capability> } | null;
  /** Where a learning platform began the session; null for all others. */
  readonly launch: LaunchSession['launch'] | null;
}
interface EnteredCourse {
  readonly course: number;
  readonly may: ReadonlySet<Capability>;
}

/** Requests of one account or token within a minute. */
const MOST_A_MINUTE = 6000;
const NO_READER: RequestHandler = (_req, _res, next) => next();

const nowhere = () => Promise.resolve(false);
/** They would reach beyond the courses of the deployment. */
const NOT_LAUNCHED = new Set<AnyEndpoint>([contract.course.begin, contract.course.beginFromScenario]);

const OF_ACCOUNT = new Set<AnyEndpoint>(Object.values(contract.access));

const isCapability = (needs: RequiredPermission): needs is Capability =>
  (CAPABILITIES as readonly string[]).includes(needs);

export interface DoorOptions {
  readonly orm: Orm;
  readonly reading: Orm;
  /** Whether a course is only read; what a course is, is said elsewhere. */
  readonly isArchived: (em: Em, course: number) => Promise<boolean>;
  /** The address under which people reach the application, where it is known. */
  readonly publicUrl?: string | null;
  /** What could not be kept of what somebody did. */
  readonly onLost?: (error: unknown) => void;
  readonly mostAMinute?: number;
  /** Whether a course is one of those that a platform's deployment launches into. */
  readonly isLaunched?: (em: Em, launch: LaunchSession['launch'], course: number) => Promise<boolean>;
}

export class Door {
  readonly router = Router();
  /** What is served, as a test compares it with the contract. */
  readonly served: AnyEndpoint[] = [];
  private readonly options: DoorOptions;
  private readonly sameSite: RequestHandler;
  private readonly limit: RequestHandler;
  private readonly queue: RequestQueue;

  constructor(options: DoorOptions) {
    this.options = options;
    this.queue = new RequestQueue();
    const sameSite = sameSiteOnly(options.publicUrl ?? null);
    // A token is no cookie: no page of another site can make a browser send it.
    this.sameSite = (req, res, next) =>
      (res.locals['asking'] as Requester | undefined)?.token ? next() : sameSite(req, res, next);
    this.limit = rateLimit({
      ...countedIn(options.orm, 'door'),
      windowMs: 60_000,
      limit: options.mostAMinute ?? MOST_A_MINUTE,
      keyGenerator: (_req, res) => askingOf(res).key,
      skip: (_req, res) => res.locals['asking'] === undefined,
      standardHeaders: 'draft-8',
      legacyHeaders: false,
      handler: (_req, _res, next) => next(new AppError('tooManyRequests')),
    });
  }

  readonly on = <E extends AnyEndpoint>(
    endpoint: E,
    answer: (call: EndpointCall<E>) => HandlerAnswer<E>,
    { guards = [], reader, isAtOnce = false }: EndpointOptions = {},
  ): void => {
    this.served.push(endpoint);
    const method = endpoint.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
    const takes = reader ?? (endpoint.method === 'GET' || endpoint.upload ? NO_READER : jsonBody);
    // Transfers may take minutes and have limits of their own, as has what nobody signs in for.
    const { form } = endpoint.answer;
    const waitsItsTurn = !isAtOnce && !endpoint.upload && form !== 'lines' && form !== 'file';
    const path = endpoint.path.replace(/\{(\w+)\}/g, ':$1');
    const before = [this.known(endpoint), this.sameSite, this.allowed(endpoint), admitted, takes];
    this.router[method](path, ...guards, ...before, async (req, res) => {
      const { body, query } = endpoint;
      if (Object.values(req.params).some((name) => String(name).includes('\0'))) throw new AppError('invalidInput');
      const asking = res.locals['asking'] as Requester | undefined;
      const { course = 0, may } = (res.locals['entered'] as EnteredCourse | undefined) ?? {};
      const asked = {
        req,
        res,
        path: req.params,
        account: asking?.account ?? req.session.account ?? 0,
        course,
        actor: asking?.actor ?? accountActor(req.session.account ?? 0),
        mayDo: (capability: Capability) => may?.has(capability) ?? false,
        mustBeAllowed: (capability: Capability) => {
          if (!may?.has(capability)) throw new AppError('notAllowed');
        },
        query: query ? parseInput(query, req.query) : undefined,
        body: body ? parseInput(body, req.body ?? {}) : undefined,
      };
      await new Promise<void>((resolve, reject) => {
        void this.limit(req, res, (error) => (error instanceof Error ? reject(error) : resolve()));
      });
      const { launch } = (req.session as Partial<typeof req.session> | undefined) ?? {};
      const isLaunched = this.options.isLaunched ?? nowhere;
      const work = async () =>
        launch && !asking?.token
          ? reachingOnly(
              (em, id) => isLaunched(em, launch, id),
              () => answer(asked as unknown as EndpointCall<E>),
            )
          : answer(asked as unknown as EndpointCall<E>);
      const said = asking && waitsItsTurn ? await this.queue.run(asking.key, res, work) : await work();
      if (isAct(endpoint)) await this.kept(endpoint, asked, req);
      if (said === SENT) return;
      if (endpoint.answer.form === 'nothing' || said === undefined)
        return void res.status(endpoint.answer.status).end();
      res.status(endpoint.answer.status).json(said);
    });
  };

  /** What was done is done: that it could not be kept refuses nothing. */
  private async kept(endpoint: AnyEndpoint, { course, actor }: { course: number; actor: Actor }, req: Request) {
    const names = Object.entries(req.params).filter(([name]) => name !== 'course');
    const about = Object.fromEntries(names.map(([name, id]) => [name, String(id)]));
    const act = { course: course === 0 ? null : course, by: actor, act: actOf(endpoint), about, from: req.ip ?? '' };
    await keepAct(this.options.orm, act).catch((error: unknown) => this.options.onLost?.(error));
  }

  /** Somebody who is signed in with an account that is still there, or a program with a token. */
  private known(endpoint: AnyEndpoint): RequestHandler {
    const { needs } = endpoint;
    return async (req, res, next) => {
      if (needs === 'open') return next();
      const asking = await this.asking(needs, req);
      if (!asking) {
        if (needs === 'key' || req.get('authorization') !== undefined) {
          res.set('www-authenticate', 'Bearer realm="Zest Bell"');
          throw new AppError('tokenNeeded');
        }
        throw new AppError('signInNeeded');
      }
      // Who has to set up a second factor can do that, and nothing else.
      if (!asking.token && req.session.mustSetFactor && !OF_ACCOUNT.has(endpoint)) throw new AppError('factorNeeded');
      res.locals['asking'] = asking;
      next();
    };
  }

  /** Where a token is sent, a session counts for nothing. */
  private async asking(needs: RequiredPermission, req: Request): Promise<Requester | null> {
    const em = this.options.reading.em.fork();
    if (req.get('authorization') !== undefined || needs === 'key') {
      const secret = bearerOf(req) ?? (needs === 'key' ? basicPasswordOf(req) : null);
      const row = secret === null ? null : await tokenOf(em, secret);
      if (!row) return null;
      used(this.options.orm, row);
      return {
        account: row.madeBy ?? 0,
        actor: tokenActor(row.id),
        key: `token ${row.id}`,
        isAdministrator: false,
        token: { course: row.course, may: new Set(row.capabilities) },
        launch: null,
      };
    }
    const { account } = req.session;
    const row = account === undefined ? null : await em.findOne(Account, { id: account });
    if (!row) return null;
    const { id, isAdministrator } = row;
    const { launch = null } = req.session;
    return {
      account: id,
      actor: accountActor(id),
      key: `account ${id}`,
      token: null,
      launch,
      // No platform makes anybody one.
      isAdministrator: isAdministrator && launch === null,
    };
  }

  /** A course of one's own, else it does not exist for them; and what they may do in it. */
  private allowed(endpoint: AnyEndpoint): RequestHandler {
    const { needs, method, inArchive } = endpoint;
    // What needs no more than reading changes nothing, however it is asked.
    const changes = method !== 'GET' && needs !== 'course.read' && needs !== 'counts.read' && !inArchive;
    return async (req, res, next) => {
      if (needs === 'open') return next();
      const asking = askingOf(res);
      if (needs === 'administrator' && !asking.isAdministrator) throw new AppError('administratorsOnly');
      if (needs === 'signedIn' && asking.token) throw new AppError('notAllowed');
      if (asking.launch && NOT_LAUNCHED.has(endpoint)) throw new AppError('notAllowed');
      if (!isCapability(needs) && needs !== 'key') return next();
      const em = this.options.reading.em.fork();
      const wanted = needs === 'key' ? null : idOf(String(req.params['course']));
      const { launch } = asking;
      if (launch && !(await (this.options.isLaunched ?? nowhere)(em, launch, wanted ?? 0)))
        throw new AppError('notFound');
      const entered = await entering(em, asking, wanted);
      if (!entered.may.has(needs === 'key' ? 'data.write' : needs)) throw new AppError('notAllowed');
      if (changes && (await this.options.isArchived(em, entered.course))) throw new AppError('courseArchived');
      res.locals['entered'] = entered;
      next();
    };
  }
}

/** `wanted` is null where the course is the token's. Throws `notFound`. */
async function entering(em: Em, { account, token }: Requester, wanted: number | null): Promise<EnteredCourse> {
  if (token && (wanted === null || wanted === token.course)) return token;
  const part = token || wanted === null ? null : await partIn(em, account, wanted);
  if (!part) throw new AppError('notFound');
  return { course: wanted!, may: part.may };
}

const askingOf = (res: Response): Requester => res.locals['asking'] as Requester;

/**
 * Limits how many requests are worked on at once. The rest wait their turn, one account after the other, so that an account that
 * asks for a hundred pages at once does not delay anybody else.
 */
import { AsyncLocalStorage } from 'node:async_hooks';
import type { Request, RequestHandler, Response } from 'express';
import { outsideLeases } from './holding.ts';
import { AppError } from '../errors/errors.ts';

export interface QueueLimits {
  /** Of one account in work at once. */
  readonly ofOne: number;
  /** Of the process in work at once. */
  readonly ofAll: number;
  /** Of one account that wait. */
  readonly waiting: number;
}

export const LIMITS: QueueLimits = { ofOne: 6, ofAll: 16, waiting: 100 };
/** When to ask again after too many waited, in seconds. */
const RETRY_AFTER = 2;

interface AskerLoad {
  inWork: number;
  readonly waiting: Set<() => void>;
}

/** Who waits for what is being done, and until when they do. */
export interface QueuedRequest {
  /** An account, a token, or whatever else requests are counted by. */
  readonly asker: string;
  readonly res: Response;
  /** Aborted once nobody waits for the answer any more. */
  readonly gone: AbortSignal;
}

/** The place of a request that is in work. */
interface WorkPlace {
  readonly asking: QueuedRequest | null;
  readonly give: () => void;
  readonly takeAgain: () => Promise<void>;
  /** How many things that happen elsewhere it waits for. */
  outside: number;
  /** How many things that it does need the place until they end. */
  kept: number;
  isOver: boolean;
}

const places = new AsyncLocalStorage<WorkPlace>();

/**
 * Waits for something that happens elsewhere, such as an answer of the mail server: the request that does gives its place to others
 * in the meantime. Outside of a request it is simply done.
 */
export async function elsewhere<T>(work: () => Promise<T>): Promise<T> {
  const place = places.getStore();
  if (!place || place.isOver || place.kept > 0) return work();
  if (place.outside++ === 0) place.give();
  try {
    return await work();
  } finally {
    place.outside--;
    if (place.outside === 0 && !place.isOver) await place.takeAgain();
  }
}

/** What runs within `work` keeps its place, also while it waits elsewhere: it holds a lock that others with places may wait for. */
export async function keepingPlace<T>(work: () => Promise<T>): Promise<T> {
  const place = places.getStore();
  if (!place) return work();
  place.kept++;
  try {
    return await work();
  } finally {
    place.kept--;
  }
}

/** The account that this is done for; null for what the server does on its own. */
export function currentAsking(): QueuedRequest | null {
  const place = places.getStore();
  return place && !place.isOver ? place.asking : null;
}

/** Begins work that continues on its own, whatever becomes of the request or the lease that set it off. */
export const byItself = <T>(work: () => T): T => places.exit(() => outsideLeases(work));

export class RequestQueue {
  private readonly limits: QueueLimits;
  /** Accounts with a request in work or waiting, the one that was served last at the end. */
  private readonly askers = new Map<string, AskerLoad>();
  private inWork = 0;

  constructor(limits: QueueLimits = LIMITS) {
    this.limits = limits;
  }

  /**
   * Does `work` for `asker` when it is their turn. Throws `tooManyRequests` where too many of theirs wait, and `busy`, without having
   * begun, once nobody waits for the answer any more. Without `res` it is the server itself that asks.
   */
  async run<T>(asker: string, res: Response | null, work: () => Promise<T>): Promise<T> {
    if (res && isGone(res)) throw new AppError('busy');
    if ((this.askers.get(asker)?.waiting.size ?? 0) >= this.limits.waiting)
      throw new AppError('tooManyRequests', [], { retryAfter: RETRY_AFTER });
    await this.turn(asker, res);
    const gone = new AbortController();
    const goes = () => gone.abort();
    if (res && isGone(res)) goes();
    res?.once('close', goes);
    const place: WorkPlace = {
      asking: res && { asker, res, gone: gone.signal },
      give: () => this.ended(asker),
      takeAgain: () => this.turn(asker, null),
      outside: 0,
      kept: 0,
      isOver: false,
    };
    try {
      return await places.run(place, work);
    } finally {
      place.isOver = true;
      res?.off('close', goes);
      // What it left running elsewhere has given the place back already.
      if (place.outside === 0) this.ended(asker);
    }
  }

  /** With `res` it throws `busy` once nobody waits for the answer any more. */
  private async turn(asker: string, res: Response | null): Promise<void> {
    const own = this.askers.get(asker) ?? { inWork: 0, waiting: new Set() };
    this.askers.set(asker, own);
    await new Promise<void>((begin, refuse) => {
      const goes = () => {
        own.waiting.delete(begins);
        this.forget(asker, own);
        refuse(new AppError('busy'));
      };
      const begins = () => {
        res?.off('close', goes);
        begin();
      };
      res?.once('close', goes);
      own.waiting.add(begins);
      this.next();
    });
  }

  /** Begins what may begin now: of each who waits one, in turns. */
  private next(): void {
    for (const [asker, own] of this.askers) {
      if (this.inWork >= this.limits.ofAll) return;
      const [begins] = own.waiting;
      if (begins === undefined || own.inWork >= this.limits.ofOne) continue;
      own.waiting.delete(begins);
      own.inWork++;
      this.inWork++;
      // They come again after everybody else.
      this.askers.delete(asker);
      this.askers.set(asker, own);
      begins();
    }
  }

  private ended(asker: string): void {
    const own = this.askers.get(asker)!;
    own.inWork--;
    this.inWork--;
    this.forget(asker, own);
    this.next();
  }

  private forget(asker: string, own: AskerLoad): void {
    if (own.inWork === 0 && own.waiting.size === 0) this.askers.delete(asker);
  }
}

/**
 * Looking who asks costs something too. Until that is known a request counts for the cookie or token that it carries, else for the
 * address that it comes from. `isAtOnce`: what waits for no other.
 */
export function admitting(isAtOnce: (req: Request) => boolean): RequestHandler {
  const queue = new RequestQueue();
  return (req, res, next) => {
    if (isAtOnce(req)) return next();
    const asker = req.get('authorization') ?? req.get('cookie') ?? req.ip ?? '';
    const entered = new Promise<void>((resolve) => {
      res.locals['admitted'] = resolve;
      res.once('close', resolve);
    });
    queue
      .run(asker, res, () => {
        next();
        return entered;
      })
      .catch(next);
  };
}

/** Who asks is known: others are looked at. */
export const admitted: RequestHandler = (_req, res, next) => {
  (res.locals['admitted'] as (() => void) | undefined)?.();
  next();
};

const isGone = (res: Response): boolean => res.destroyed || res.closed;

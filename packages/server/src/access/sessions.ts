/** Sessions in the database, so that a restart signs nobody out. Ids are stored as hashes. */
import { MINUTE } from '@zest-bell/core/time';
import session from 'express-session';
import type { RequestHandler, Response } from 'express';
import type { Orm } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { LAUNCH_COOKIE, SESSION_COOKIE } from '../platform/http/http.ts';
import { runBeside } from '../platform/work/runBeside.ts';
import { SessionRow, sessionHolds } from './entity.ts';
import { hashOf } from './passwords.ts';
import { wallClock } from '../platform/process/clock.ts';
import { removeRows, updateRows, upsertRow } from '../platform/database/writing.ts';

const LIFETIME = 12 * 3_600_000;

class DatabaseStore extends session.Store {
  private readonly orm: Orm;
  /** Who is signed in is read beside whatever is being written. */
  private readonly reading: Orm;

  constructor(orm: Orm, reading: Orm) {
    super();
    this.orm = orm;
    this.reading = reading;
  }

  override get(id: string, done: (error: unknown, data?: session.SessionData | null) => void): void {
    void this.reading.em
      .fork()
      .findOne(SessionRow, { id: hashOf(id) })
      .then((row) => {
        if (row) this.seen(row);
        done(null, row && row.expiresAt > wallClock() ? (JSON.parse(row.data) as session.SessionData) : null);
      })
      .catch((error: unknown) => done(error));
  }

  /** To the minute, and no request waits for it. */
  private seen({ id, seenAt }: SessionRow, now = wallClock()): void {
    if (now - seenAt < MINUTE) return;
    runBeside(this.orm, `session ${id}`, () =>
      inTransaction(this.orm, (tx) => updateRows(tx, sessionHolds, { id }, { seenAt: now })),
    );
  }

  override set(id: string, data: session.SessionData, done?: (error?: unknown) => void): void {
    const now = wallClock();
    const { account = null, since = now, from = '', browser = '' } = data;
    const row = {
      id: hashOf(id),
      data: JSON.stringify(data),
      account,
      since,
      from,
      browser,
      seenAt: now,
      expiresAt: now + LIFETIME,
    };
    inTransaction(this.orm, (em) => upsertRow(em, sessionHolds, row))
      .then(() => done?.())
      .catch((error: unknown) => done?.(error));
  }

  override destroy(id: string, done?: (error?: unknown) => void): void {
    const gone = { $or: [{ id: hashOf(id) }, { expiresAt: { $lt: wallClock() } }] };
    inTransaction(this.orm, (em) => removeRows(em, sessionHolds, gone))
      .then(() => done?.())
      .catch((error: unknown) => done?.(error));
  }
}

/** Removes sessions that are over. */
export const forgetSessions = (orm: Orm): Promise<number> =>
  inTransaction(orm, (em) => removeRows(em, sessionHolds, { expiresAt: { $lt: wallClock() } }));

/** Sets a cookie behind that of the session: programs that sign in may take the first one for theirs. */
export const setAfterSession = (res: Response, cookie: string): void => {
  res.locals['afterSession'] = cookie;
};

export function sessions(orm: Orm, reading: Orm, secret: string, secure: boolean): RequestHandler {
  const own = session({
    name: SESSION_COOKIE,
    secret,
    store: new DatabaseStore(orm, reading),
    resave: false,
    saveUninitialized: false,
    rolling: false,
    cookie: { httpOnly: true, sameSite: 'lax', secure, maxAge: LIFETIME, path: '/' },
  });
  return (req, res, next) => {
    req.headers.cookie = withLaunched(req.headers.cookie);
    const writeHead = res.writeHead.bind(res) as (...all: unknown[]) => typeof res;
    // The library sets its cookie last, when the head is written.
    res.writeHead = ((...args: unknown[]) => {
      const set = res.getHeader('set-cookie');
      if ((req.session as Partial<typeof req.session> | undefined)?.launch && set !== undefined)
        res.setHeader(
          'set-cookie',
          [set].flat().map((c) => renamed(String(c))),
        );
      const after = res.locals['afterSession'] as string | undefined;
      if (after !== undefined) res.appendHeader('set-cookie', after);
      return writeHead(...args);
    }) as typeof res.writeHead;
    own(req, res, next);
  };
}

const STARTS = new RegExp(`(^|;\\s*)${SESSION_COOKIE}=`);
const LAUNCHED = new RegExp(`(^|;\\s*)${LAUNCH_COOKIE}=`);

/** Where a browser holds both, a password counts: it was typed here. */
const withLaunched = (cookies: string | undefined): string | undefined =>
  cookies === undefined || STARTS.test(cookies) ? cookies : cookies.replace(LAUNCHED, `$1${SESSION_COOKIE}=`);

/** Of a session of a launch; one that is ended keeps its name. */
const renamed = (cookie: string): string =>
  /^[^;]*; Max-Age=0/.test(cookie) ? cookie : cookie.replace(STARTS, `$1${LAUNCH_COOKIE}=`);

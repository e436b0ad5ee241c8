/** The tool of LTI 1.3: login, launch, its keys, and the page of a student. What a person opens answers with a page. */
import express, { Router, type Request, type RequestHandler, type Response } from 'express';
import { Account, isOfLaunch } from '../../access/entity.ts';
import { hashOf, newSecret } from '../../access/passwords.ts';
import { beginLaunch, type LaunchSession } from '../../access/signIn.ts';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { setPause, endPauses } from '../../mail/pauses/pause.ts';
import { lookedAtIn } from '../../mail/pauses/page.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { ownOrigin, sameSiteOnly } from '../../platform/http/http.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { SourceLinkRow, SourceRow } from '../entity.ts';
import type { ConnectionServices } from '../services.ts';
import { pull } from '../sources.ts';
import { LaunchCodeRow, NonceRow, PlatformRow, launchCodeHolds, nonceHolds } from './entity.ts';
import { toolKeys } from './keys.ts';
import {
  againFrom,
  beginLogin,
  cookieOf,
  LaunchRefused,
  PlatformKeys,
  readMessage,
  readState,
  type LoginRequest,
  type LaunchState,
} from './message.ts';
import {
  storageRequestPage,
  CLOSE_SCRIPT,
  keepingPage,
  openPage,
  refusalPage,
  registeredPage,
  STORAGE_SCRIPT,
  studentPage,
  takenAwayPage,
  unregisteredPage,
  waitingPage,
} from './pages.ts';
import { frameable } from './framing.ts';
import { framedBy, platforms } from './platforms.ts';
import { register, RegistrationRefused } from './registration.ts';
import { toolFile } from './tool.ts';
import {
  beginCourse,
  keepSource,
  launchAccount,
  launchCourse,
  roleOf,
  updateAccessFromLaunch,
  type Arrival,
} from './who.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { insertRow, removeRows } from '../../platform/database/writing.ts';
import { alsoCourse, inCourse } from '../../course/lock.ts';

const NONCE_KEPT = 3_600_000;
const CODE_LIVES = 60_000;
const COOKIE_LIVES = 600;

export interface LaunchOptions {
  readonly sessions: RequestHandler;
  readonly secret: string;
  readonly publicUrl: string | null;
}

export function launchRoutes(services: ConnectionServices, { sessions, secret, publicUrl }: LaunchOptions): Router {
  const { orm, reading, live, clock, logger, sealOutside: seal, linkBase } = services;
  const router = Router();
  const keys = new PlatformKeys(services.outgoing);
  const form = express.urlencoded({ extended: false, limit: '256kb' });

  /** The tool's own address: where it is known, else a name of this machine alone. */
  const baseOf = (req: Request): string => {
    const base = linkBase() ?? ownOrigin(req, null);
    if (base === null) throw new AppError('noPublicAddress');
    return base;
  };
  const html = (res: Response, status: number, text: string, frames: readonly string[] = []) => {
    if (frames.length > 0) frameable(res, frames);
    res.status(status).set('cache-control', 'no-store').type('html').send(text);
  };
  const answering =
    (work: (req: Request, res: Response) => Promise<void>): RequestHandler =>
    async (req, res) => {
      try {
        await work(req, res);
      } catch (error) {
        if (!(error instanceof LaunchRefused)) throw error;
        html(res, 400, refusalPage(error), (res.locals['frames'] as string[] | undefined) ?? []);
      }
    };

  const login = answering(async (req, res) => {
    const said = (req.method === 'POST' ? (req.body as unknown) : req.query) as Record<string, unknown>;
    const text = (name: string) => (typeof said[name] === 'string' && said[name] !== '' ? said[name] : undefined);
    const request: LoginRequest = {
      iss: text('iss'),
      login_hint: text('login_hint'),
      target_link_uri: text('target_link_uri'),
      client_id: text('client_id'),
      lti_deployment_id: text('lti_deployment_id'),
      lti_message_hint: text('lti_message_hint'),
      lti_storage_target: text('lti_storage_target'),
    };
    const known = (await platforms(reading.em.fork())).filter((p) => p.approvedAt != null);
    const { platform, to, state, stored } = beginLogin(request, known, { seal, base: baseOf(req) });
    const { name, value } = cookieOf(seal, state);
    res.append('set-cookie', `${name}=${value}; Max-Age=${COOKIE_LIVES}; Path=/lti; ${CROSS_SITE}`);
    if (stored === null) return void res.set('cache-control', 'no-store').redirect(302, to);
    html(res, 200, keepingPage(to, stored, name, request.lti_storage_target!), framedBy(platform));
  });
  router.get('/lti/login', login);
  router.post('/lti/login', form, login);

  router.post(
    '/lti/launch',
    form,
    sessions,
    answering(async (req, res) => {
      const said = (req.body ?? {}) as Record<string, unknown>;
      const { id_token: token, state: text, stored } = said;
      if (typeof text !== 'string') throw new LaunchRefused('missing');
      const state = readState(seal, text);
      if (!state) throw new LaunchRefused('stateUnknown');
      const platform = await reading.em.fork().findOne(PlatformRow, { id: state.p });
      if (platform?.approvedAt == null) throw new LaunchRefused('unknownPlatform');
      res.locals['frames'] = framedBy(platform);
      if (said['error'] !== undefined) throw new LaunchRefused('platformRefused');
      if (typeof token !== 'string' || token === '') throw new LaunchRefused('missing');
      const cookie = cookieOf(seal, text);
      const kept = cookieNamed(req, cookie.name);
      const again = againFrom(baseOf(req), state);
      if (kept !== null && kept !== cookie.value) throw new LaunchRefused('otherBrowser');
      const isStored = kept === null && mustBeStored(state, stored, again);
      if (kept === null && !isStored) {
        const origin = new URL(platform.authEndpoint).origin;
        return html(
          res,
          200,
          storageRequestPage({ idToken: token, state: text, key: cookie.name, origin, again }),
          framedBy(platform),
        );
      }
      const message = await readMessage(token, { platform, state, keys });
      const arrival: Arrival = { platform, message, now: clock.now() };
      const { session, leadsTo, source, page } = await inTransaction(orm, async (tx) => {
        await useNonce(tx, `${platform.id} ${state.n}`, wallClock());
        return arrive(tx, arrival);
      });
      if (source !== null)
        void pull(services, source).catch((error: unknown) =>
          logger.error({ err: error, source }, 'a launch brought no roster'),
        );
      if (page !== null) return html(res, 200, page, framedBy(platform));
      res.append('set-cookie', `${cookie.name}=; Max-Age=0; Path=/lti; ${CROSS_SITE}`);
      if (isStored) return html(res, 200, openPage(await codeFor(session, leadsTo)), framedBy(platform));
      await beginLaunch(req, res, session, secret);
      res.set('cache-control', 'no-store').redirect(303, leadsTo);
    }),
  );

  async function arrive(tx: Tx, arrival: Arrival) {
    const { platform, message } = arrival;
    const launch = { platform: platform.id, deployment: message.deployment };
    const nothing = { session: { launch } as LaunchSession, leadsTo: '/', source: null, page: null as string | null };
    const role = roleOf(message.roles);
    const context = await launchCourse(tx, arrival);
    if (role === 'student') {
      if (!context) return { ...nothing, page: waitingPage };
      const person = await personOf(tx, context.course, message.subject);
      return { ...nothing, session: { launch, student: { course: context.course, person } }, leadsTo: '/lti/student' };
    }
    // The one who comes first by a launch is not the first here: that is an administrator with a password.
    if ((await tx.count(Account)) === 0) throw new LaunchRefused('notSetUp');
    if (!context && role === 'assistant') return { ...nothing, page: waitingPage };
    return launchAccount(tx, arrival, (account) => {
      const enter = async (held: Tx<'course'>, course: number) => {
        const has = await updateAccessFromLaunch(held, {
          account: account.id,
          course,
          role,
          isFirst: context === null,
        });
        if (has === null) return { ...nothing, page: takenAwayPage };
        const { daysConfirmed } = await held.findOneOrFail(CourseRow, { id: course }, { fields: ['daysConfirmed'] });
        return {
          session: { launch, account: account.id, ...(isOfLaunch(account) ? {} : { isJoined: true as const }) },
          leadsTo: `/c/${course}/${daysConfirmed ? 'today' : 'setup'}`,
          source: await keepSource(held, arrival, course),
          page: null,
        };
      };
      return context === null
        ? beginCourse(tx, arrival, account, enter)
        : alsoCourse(tx, context.course, (held) => enter(held, context.course));
    });
  }

  /** Whom the platform's listing named so; null for somebody who is not on the roster. */
  async function personOf(tx: Tx, course: number, subject: string): Promise<string | null> {
    const source = await tx.findOne(SourceRow, { course, kind: 'lti' });
    const link = source && (await tx.findOne(SourceLinkRow, { source: source.id, kind: 'person', external: subject }));
    return link && (await tx.count(PersonRow, { course, key: link.key })) > 0 ? link.key : null;
  }

  async function codeFor(session: LaunchSession, leadsTo: string): Promise<string> {
    const code = newSecret();
    await inTransaction(orm, async (tx) => {
      await removeRows(tx, launchCodeHolds, { endsAt: { $lt: wallClock() } });
      await insertRow(tx, launchCodeHolds, { hash: hashOf(code), session, leadsTo, endsAt: wallClock() + CODE_LIVES });
    });
    return `/lti/open?code=${code}`;
  }

  router.get(
    '/lti/open',
    sessions,
    answering(async (req, res) => {
      const code = typeof req.query['code'] === 'string' ? req.query['code'] : '';
      const row = await inTransaction(orm, async (tx) => {
        const found = await tx.findOne(LaunchCodeRow, { hash: hashOf(code) }, { disableIdentityMap: true });
        if (found) await removeRows(tx, launchCodeHolds, { hash: found.hash });
        return found && found.endsAt > wallClock() ? found : null;
      });
      if (!row) throw new LaunchRefused('stateUnknown');
      await beginLaunch(req, res, row.session as LaunchSession, secret);
      res.set('cache-control', 'no-store').redirect(303, row.leadsTo);
    }),
  );

  const ofStudent = async (req: Request, said: string | null) => {
    const { student, launch } = req.session;
    if (!student || !launch) throw new AppError('signInNeeded');
    const em = reading.em.fork();
    const { course } = await live.get(em, student.course);
    const platform = await em.findOne(PlatformRow, { id: launch.platform });
    const row =
      student.person === null ? null : await em.findOne(PersonRow, { course: student.course, key: student.person });
    const text = studentPage({
      course: course.title,
      firstName: row?.firstName ?? '',
      paused: row ? row.paused : null,
      said,
      lookedAt: await lookedAtIn(em, student.course, course),
    });
    return { text, frames: platform ? framedBy(platform) : [] };
  };
  router.get('/lti/student', sessions, async (req, res) => {
    const { text, frames } = await ofStudent(req, null);
    html(res, 200, text, frames);
  });
  router.post('/lti/student', sessions, sameSiteOnly(publicUrl), form, async (req, res) => {
    const { student } = req.session;
    if (!student || student.person === null) throw new AppError('signInNeeded');
    const wants = (req.body as { paused?: unknown } | undefined)?.paused === 'yes';
    const { course } = await live.get(reading.em.fork(), student.course);
    if (clock.now() >= course.calendar.end) throw new AppError('courseOver');
    const { person } = student;
    // Removed from the course since the launch.
    if (!course.personIndex.has(person)) throw new AppError('notFound');
    await endPauses(services);
    await inCourse(orm, student.course, (tx) =>
      setPause(tx, student.course, person, wants ? course.calendar.end : null),
    );
    const { text, frames } = await ofStudent(req, wants ? 'Saved.' : 'You will get these messages again.');
    html(res, 200, text, frames);
  });

  router.get('/lti/keys', async (_req, res) => {
    const { published } = await toolKeys(services);
    res.set('cache-control', 'public, max-age=3600').json({ keys: published });
  });

  router.get('/lti/config.json', (req, res) => {
    res.json(toolFile(baseOf(req)));
  });

  router.get('/lti/register', async (req, res) => {
    const of = (name: string) => (typeof req.query[name] === 'string' ? req.query[name] : '');
    try {
      const origin = await register(services, {
        code: of('code'),
        configuration: of('openid_configuration'),
        base: baseOf(req),
        token: of('registration_token') || null,
      });
      html(res, 200, registeredPage(origin), [origin]);
    } catch (error) {
      if (!(error instanceof RegistrationRefused)) throw error;
      html(res, 400, unregisteredPage(error));
    }
  });

  router.get('/lti/close.js', (_req, res) => void res.type('text/javascript').send(CLOSE_SCRIPT));
  router.get('/lti/storage.js', (_req, res) => void res.type('text/javascript').send(STORAGE_SCRIPT));
  return router;
}

/** Always said, over http on loopback too: the tool is shown within another site. */
const CROSS_SITE = 'Secure; HttpOnly; SameSite=None; Partitioned';

function cookieNamed(req: Request, name: string): string | null {
  for (const pair of (req.headers.cookie ?? '').split(';')) {
    const at = pair.indexOf('=');
    if (at > 0 && pair.slice(0, at).trim() === name) return pair.slice(at + 1).trim();
  }
  return null;
}

/** Whether what the platform kept for the frame came back; false where it is still to be asked for. Throws where it keeps nothing. */
function mustBeStored({ v }: LaunchState, stored: unknown, again: string): boolean {
  if (v === null) throw new LaunchRefused('noCookie', again);
  if (typeof stored !== 'string' || stored === '') return false;
  if (hashOf(stored) !== v) throw new LaunchRefused('otherBrowser', again);
  return true;
}

/** Once, and for an hour. Throws `nonceUsed`. */
async function useNonce(tx: Tx, nonce: string, now: number): Promise<void> {
  await removeRows(tx, nonceHolds, { endsAt: { $lt: now } });
  if ((await tx.count(NonceRow, { nonce })) > 0) throw new LaunchRefused('nonceUsed');
  await insertRow(tx, nonceHolds, { nonce, endsAt: now + NONCE_KEPT });
}

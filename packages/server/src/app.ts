/** The HTTP application: every route behind a signed-in person, but for sign-in, health and the ingestion with its token. */
import type { ClockAnswer } from '@zest-bell/core/exchange';
import { ANSWERS, docsPage } from './access/docs.ts';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import express, { Router, type Express } from 'express';
import helmet from 'helmet';
import { API_BASE, contract, openApi } from '@zest-bell/core/contract';
import { Door } from './access/door.ts';
import { actRoutes } from './access/auditRoutes.ts';
import { peopleRoutes } from './access/peopleRoutes.ts';
import { accountRoutes } from './access/routes.ts';
import { directoryPages } from './access/directory/routes.ts';
import { addressRoutes } from './access/addressRoutes.ts';
import { tokenRoutes } from './access/tokenRoutes.ts';
import { sessions } from './access/sessions.ts';
import { isArchived } from './course/archive.ts';
import { titlesOf } from './course/titles.ts';
import { keepVoices, passVoices } from './rules/voices.ts';
import { serveCourse } from './course/routes.ts';
import { serveWording } from './wording/routes.ts';
import { serveRules } from './rules/routes.ts';
import { serveMail } from './mail/routes.ts';
import { serveRounds } from './rounds/routes.ts';
import { serveIntake } from './intake/routes.ts';
import { serveConnections } from './connections/routes.ts';
import { serveDesk } from './desk/routes.ts';
import { serveTerms } from './terms/routes.ts';
import { erasureRoutes } from './privacy/routes.ts';
import type { MailHandOver } from './mail/outbox/handsOver.ts';
import { nextRoundOfAll } from './rounds/deciding/scheduler.ts';
import { calendarFeeds } from './desk/exports/routes.ts';
import { pausePages } from './mail/pauses/page.ts';
import { caliperRoutes } from './intake/statements/caliper.ts';
import { statementRoutes } from './intake/statements/routes.ts';
import type { Figures } from './desk/figures/figures.ts';
import { isWritable } from './platform/database/space.ts';
import { AppError, ERRORS } from './platform/errors/errors.ts';
import { logged } from './platform/http/requests.ts';
import { admitting } from './platform/turns/requestQueue.ts';
import { afterOthers } from './platform/turns/inTurns.ts';
import { compressed } from './platform/http/compressed.ts';
import { problemDetails } from './platform/http/http.ts';
import { framing } from './connections/lti/framing.ts';
import { launchRoutes } from './connections/lti/routes.ts';
import { isLaunched } from './connections/lti/who.ts';
import type { ConnectionServices } from './connections/services.ts';

const HEALTH = '/health';
const bundled = fileURLToPath(new URL('../../web/dist/', import.meta.url));

export interface AppOptions {
  readonly secret: string;
  /** True behind HTTPS: cookies are then sent over it alone. */
  readonly secure: boolean;
  /** The proxies that are believed about where requests come from; by default, programs on this machine. */
  readonly trustedProxy?: readonly string[] | null;
  /** In the demo, the account of its one-button sign-in, and the stand-ins' own routes behind the sign-in. */
  readonly demo: {
    readonly email: string;
    readonly routes: (door: Door) => void;
    readonly tells: () => Pick<ClockAnswer, 'silent' | 'campus'>;
  } | null;
  /** The address under which people reach it; links in mail are made from it alone. */
  readonly publicUrl?: string | null;
  /** Typed by the person who makes the first account, where the server can be reached from elsewhere. */
  readonly firstCode?: string | null;
  readonly isReady: () => boolean;
  /** Of the application. */
  readonly version?: string;
  /** False for a process that answers no people: it says whether it is well, and its figures. */
  readonly serves?: boolean;
  /** Null while nobody is told figures. */
  readonly figures?: Figures | null;
  /** The folder of the bundled interface; where `npm start` bundles it, it fills while the server runs. */
  readonly page?: string;
}

export function createApp(services: ConnectionServices, dispatcher: MailHandOver, options: AppOptions): Express {
  const app = express();
  app.disable('x-powered-by');
  // Nobody else speaks for where others come from: who could, would be refused for none of their guesses.
  app.set('trust proxy', options.trustedProxy ?? (options.secure ? 'loopback' : false));
  // Many requests that arrive together begin one after another, so that a health check is answered in between.
  app.use((req, _res, next) => void (req.path === HEALTH ? next() : afterOthers(next)));
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          'default-src': ["'self'"],
          'script-src': ["'self'"],
          'font-src': ["'self'"],
          'img-src': ["'self'", 'data:'],
          // Components place themselves by style attributes; scripts stay strict.
          'style-src': ["'self'", "'unsafe-inline'"],
          'worker-src': ["'self'"],
          'frame-src': ["'self'"],
          'object-src': ["'none'"],
          'base-uri': ["'none'"],
          'form-action': ["'self'"],
          'frame-ancestors': ["'none'"],
          'upgrade-insecure-requests': options.secure ? [] : null,
        },
      },
      strictTransportSecurity: options.secure,
      // Who may frame it is said above, in one place.
      xFrameOptions: false,
    }),
  );

  app.use(logged(services.logger));
  if (options.figures) app.use(options.figures.timing, options.figures.router());
  // No id and no name has a NUL in it.
  app.use((req, _res, next) => next(/%00/.test(req.url) ? new AppError('notFound') : undefined));
  app.use(compressed((path) => path.startsWith(API_BASE)));
  app.get(HEALTH, (_req, res) => {
    const ready = options.isReady();
    const writable = isWritable(services.orm);
    res
      .status(ready && writable ? 200 : 503)
      .json({ application: 'zest-bell', ready, ...(writable ? {} : { writable }) });
  });
  if (options.serves === false) {
    app.use((_req, _res, next) => next(new AppError('notFound')));
    app.use(problemDetails(services.logger));
    return app;
  }
  app.use('/xapi/:course', statementRoutes(services));
  app.use('/caliper/:course', caliperRoutes(services));
  app.use(pausePages(services, options.secret));
  app.use(calendarFeeds(services));
  const signed = sessions(services.orm, services.reading, options.secret, options.secure);
  app.use(launchRoutes(services, { sessions: signed, secret: options.secret, publicUrl: options.publicUrl ?? null }));

  const signIns = { ...accountOptions(options), sessions: signed };
  app.use(directoryPages(services, signIns));

  const api = Router();
  // What people do is taken from the first moment on: the demo is told of it while it gets ready.
  const isTold = (path: string) => path === contract.intake.activity.path;
  api.use((req, _res, next) => next(options.isReady() || isTold(req.path) ? undefined : new AppError('notReady')));
  api.use(admitting((req) => req.path === contract.desk.clock.path));
  api.use(signed);
  api.use((_req, res, next) => {
    res.set('cache-control', 'no-store');
    next();
  });
  api.use(doorOf(services, dispatcher, options).router);
  api.use((_req, _res, next) => next(new AppError('notFound')));
  let document: ReturnType<typeof openApi> | null = null;
  app.get(
    '/api/openapi.json',
    (_req, res) => void res.json((document ??= openApi(options.version ?? '', ANSWERS, Object.keys(ERRORS)))),
  );
  app.use(docsPage());
  app.use(API_BASE, api);
  app.use('/api', (_req, _res, next) => next(new AppError('notFound')));

  const page = options.page ?? bundled;
  app.use('/assets', express.static(join(page, 'assets'), { immutable: true, maxAge: '1y' }));
  app.use(express.static(page, { index: false }));
  app.get('/{*path}', signed, framing(services), (_req, res, next) => {
    if (!existsSync(join(page, 'index.html'))) return next();
    res.set('cache-control', 'no-cache').sendFile('index.html', { root: page });
  });
  app.use(problemDetails(services.logger));
  return app;
}

const accountOptions = ({ demo, publicUrl }: Pick<AppOptions, 'demo' | 'publicUrl'>) => ({
  demoEmail: demo?.email ?? null,
  publicUrl: publicUrl ?? null,
  titlesOf,
  onPart: keepVoices,
  onJoined: passVoices,
});

/** Everything that is served of the contract. */
export function doorOf(
  services: ConnectionServices,
  dispatcher: MailHandOver,
  options: Pick<AppOptions, 'demo' | 'publicUrl' | 'firstCode'>,
): Door {
  const { orm, reading, logger } = services;
  const door = new Door({
    orm,
    reading,
    isArchived,
    isLaunched,
    publicUrl: options.publicUrl ?? null,
    onLost: (error) => logger.error({ err: error }, 'what was done could not be written into the log of acts'),
  });
  const accounts = accountOptions(options);
  accountRoutes(door, services, { ...accounts, firstCode: options.firstCode ?? null });
  addressRoutes(door, services);
  peopleRoutes(door, services, accounts);
  tokenRoutes(door, services);
  actRoutes(door, services, accounts);
  const clock = async () => ({
    now: services.clock.now(),
    nextRound: await nextRoundOfAll(services),
    demo: options.demo !== null,
    ...(options.demo?.tells() ?? { silent: false, campus: null }),
  });
  door.on(contract.desk.clock, clock, { isAtOnce: true });
  serveCourse(door, services);
  serveWording(door, services);
  serveRules(door, services);
  serveMail(door, services, dispatcher);
  serveRounds(door, services, dispatcher);
  serveIntake(door, services);
  serveConnections(door, services);
  serveDesk(door, services, dispatcher);
  serveTerms(door, services);
  erasureRoutes(door, services);
  options.demo?.routes(door);
  return door;
}

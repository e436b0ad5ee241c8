/** The HTTP application: every route behind a signed-in person, but for sign-in, health and the ingestion with its token. */
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import express, { Router, type Express } from 'express';
import compression from 'compression';
import helmet from 'helmet';
import { API_BASE, contract, openApi } from '@zest-bell/core';
import { Door } from './accounts/door.ts';
import { accountRoutes } from './accounts/routes.ts';
import { sessions } from './accounts/sessions.ts';
import { columnRoutes } from './places/columns/routes.ts';
import { activityRoutes } from './activity/routes.ts';
import { limitRoutes } from './places/course/limits.ts';
import { mailSwitchRoutes } from './places/course/mailSwitch.ts';
import { dataRoutes } from './places/course/data.ts';
import { editRoutes } from './places/course/edit.ts';
import { importRoutes } from './places/course/imports.ts';
import { courseRoutes } from './places/course/routes.ts';
import { fromFileRoutes } from './places/course/fromFile.ts';
import { setUpRoutes } from './places/course/setUp.ts';
import { senderRoutes } from './places/course/sender.ts';
import { lookoutRoutes } from './places/lookout/routes.ts';
import { mailingRoutes } from './places/mailings/routes.ts';
import { factRoutes } from './places/students/facts.ts';
import { studentRoutes } from './places/students/routes.ts';
import { fallingRoutes } from './places/today/falling.ts';
import { inboxRoutes, replyRoutes } from './places/inbox/routes.ts';
import { replayRoutes } from './places/replay/routes.ts';
import { todayRoutes } from './places/today/routes.ts';
import type { Dispatcher } from './outbox/dispatcher.ts';
import { fileRoutes } from './files/routes.ts';
import { nextRoundOfAll } from './rounds/scheduler.ts';
import { pausePages } from './pauses/page.ts';
import { ruleHistoryRoutes } from './places/rules/history.ts';
import { ruleRoutes } from './places/rules/routes.ts';
import { tryingRoutes } from './places/rules/trying.ts';
import { trayRoutes } from './places/tray/routes.ts';
import { troubleRoutes } from './places/course/retry.ts';
import { sendingRoutes } from './sendings/routes.ts';
import { sendLogRoutes } from './places/sendLog/routes.ts';
import { wordingRoutes } from './places/wording/routes.ts';
import { AppError } from './platform/errors.ts';
import { LINES_TYPE, problemDetails } from './platform/http.ts';
import type { Services } from './services.ts';
import { statementRoutes } from './statements/routes.ts';

const webDist = fileURLToPath(new URL('../../web/dist/', import.meta.url));

export interface AppOptions {
  readonly secret: string;
  /** True behind HTTPS: cookies are then sent over it alone. */
  readonly secure: boolean;
  /** In the demo, the account of its one-button sign-in, and the stand-ins' own routes behind the sign-in. */
  readonly demo: {
    readonly email: string;
    readonly routes: (door: Door) => void;
    readonly isSilent: () => boolean;
  } | null;
  readonly isReady: () => boolean;
  /** Of the application. */
  readonly version?: string;
}

export function createApp(services: Services, dispatcher: Dispatcher, options: AppOptions): Express {
  const app = express();
  app.disable('x-powered-by');
  // Behind HTTPS a proxy on this machine speaks for its clients; without it, nobody does.
  app.set('trust proxy', options.secure ? 'loopback' : false);
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
    }),
  );

  // No id and no name has a NUL in it.
  app.use((req, _res, next) => next(/%00/.test(req.url) ? new AppError('notFound') : undefined));
  app.use(
    compression({
      filter: (req, res) => res.get('content-type')?.startsWith(LINES_TYPE) || compression.filter(req, res),
    }),
  );
  app.get('/health', (_req, res) => {
    const ready = options.isReady();
    res.status(ready ? 200 : 503).json({ application: 'zest-bell', ready });
  });
  app.use('/xapi/:course', statementRoutes(services));
  app.use(pausePages(services, options.secret));

  const api = Router();
  // What people do is taken from the first moment on: the demo is told of it while it gets ready.
  const isTold = (path: string) => path === contract.intake.activity.path;
  api.use((req, _res, next) => next(options.isReady() || isTold(req.path) ? undefined : new AppError('notReady')));
  api.use(sessions(services.orm, services.reading, options.secret, options.secure));
  api.use((_req, res, next) => {
    res.set('cache-control', 'no-store');
    next();
  });
  api.use(doorOf(services, dispatcher, options).router);
  api.use((_req, _res, next) => next(new AppError('notFound')));
  let document: ReturnType<typeof openApi> | null = null;
  app.get('/api/openapi.json', (_req, res) => void res.json((document ??= openApi(options.version ?? ''))));
  app.use(API_BASE, api);
  app.use('/api', (_req, _res, next) => next(new AppError('notFound')));

  if (existsSync(webDist)) {
    app.use('/assets', express.static(`${webDist}assets`, { immutable: true, maxAge: '1y' }));
    app.use(express.static(webDist, { index: false }));
    app.get('/{*path}', (_req, res) => {
      res.set('cache-control', 'no-cache').sendFile('index.html', { root: webDist });
    });
  }
  app.use(problemDetails(services.logger));
  return app;
}

/** Everything that is served of the contract. */
export function doorOf(services: Services, dispatcher: Dispatcher, options: Pick<AppOptions, 'demo'>): Door {
  const door = new Door(services.reading);
  accountRoutes(door, services.orm, options.demo?.email ?? null);
  door.on(contract.desk.clock, async () => ({
    now: services.clock.now(),
    nextRound: await nextRoundOfAll(services),
    demo: options.demo !== null,
    silent: options.demo?.isSilent() ?? false,
  }));
  activityRoutes(door, services);
  setUpRoutes(door, services);
  fromFileRoutes(door, services);
  inboxRoutes(door, services);
  sendingRoutes(door, services, dispatcher);
  courseRoutes(door, services);
  columnRoutes(door, services);
  lookoutRoutes(door, services);
  replayRoutes(door, services);
  editRoutes(door, services);
  importRoutes(door, services);
  dataRoutes(door, services);
  senderRoutes(door, services);
  limitRoutes(door, services);
  mailSwitchRoutes(door, services, dispatcher);
  todayRoutes(door, services);
  replyRoutes(door, services, dispatcher);
  fallingRoutes(door, services, dispatcher);
  mailingRoutes(door, services, dispatcher);
  trayRoutes(door, services, dispatcher);
  studentRoutes(door, services);
  factRoutes(door, services);
  troubleRoutes(door, services, dispatcher);
  tryingRoutes(door, services, dispatcher);
  ruleRoutes(door, services);
  ruleHistoryRoutes(door, services);
  wordingRoutes(door, services);
  fileRoutes(door, services);
  sendLogRoutes(door, services, dispatcher);
  options.demo?.routes(door);
  return door;
}

/** The HTTP application: every route behind a signed-in person, but for sign-in, health and the ingestion with its token. */
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import express, { Router, type Express } from 'express';
import compression from 'compression';
import helmet from 'helmet';
import type { ClockAnswer } from '@zest-bell/core';
import { accountRoutes, signedIn } from './accounts/routes.ts';
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
import { LINES_TYPE, problemDetails, sameSiteOnly } from './platform/http.ts';
import type { Services } from './services.ts';
import { statementRoutes } from './statements/routes.ts';

const webDist = fileURLToPath(new URL('../../web/dist/', import.meta.url));

export interface AppOptions {
  readonly secret: string;
  /** True behind HTTPS: cookies are then sent over it alone. */
  readonly secure: boolean;
  /** In the demo, the account of its one-button sign-in, and the stand-ins' own routes behind the sign-in. */
  readonly demo: { readonly email: string; readonly routes: Router; readonly isSilent: () => boolean } | null;
  readonly isReady: () => boolean;
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
  app.use('/api', activityRoutes(services));
  app.use('/xapi/:course', statementRoutes(services));
  app.use(pausePages(services, options.secret));

  const api = Router();
  api.use((_req, _res, next) => next(options.isReady() ? undefined : new AppError('notReady')));
  api.use(express.json({ limit: '1mb' }));
  api.use(sameSiteOnly);
  api.use(sessions(services.orm, services.reading, options.secret, options.secure));
  api.use((_req, res, next) => {
    res.set('cache-control', 'no-store');
    next();
  });
  api.use(accountRoutes(services.orm, options.demo?.email ?? null));
  api.use(signedIn(services.reading));
  api.get('/clock', async (_req, res) => {
    const now = services.clock.now();
    const nextRound = await nextRoundOfAll(services);
    res.json({
      now,
      nextRound,
      demo: options.demo !== null,
      silent: options.demo?.isSilent() ?? false,
    } satisfies ClockAnswer);
  });
  api.use(setUpRoutes(services));
  api.use(fromFileRoutes(services));
  api.use(inboxRoutes(services));
  api.use(sendingRoutes(services, dispatcher));
  api.use(courseRoutes(services));
  api.use(
    '/courses/:course',
    columnRoutes(services),
    lookoutRoutes(services),
    replayRoutes(services),
    editRoutes(services),
    importRoutes(services),
    dataRoutes(services),
    senderRoutes(services),
    limitRoutes(services),
    mailSwitchRoutes(services, dispatcher),
    todayRoutes(services),
    replyRoutes(services, dispatcher),
    fallingRoutes(services, dispatcher),
    mailingRoutes(services, dispatcher),
    trayRoutes(services, dispatcher),
    studentRoutes(services),
    factRoutes(services),
  );
  api.use('/courses/:course/rounds', troubleRoutes(services, dispatcher));
  api.use(
    '/courses/:course/rules',
    tryingRoutes(services, dispatcher),
    ruleRoutes(services),
    ruleHistoryRoutes(services),
  );
  api.use('/courses/:course/wordings', wordingRoutes(services));
  api.use('/courses/:course/files', fileRoutes(services));
  api.use('/courses/:course/log', sendLogRoutes(services, dispatcher));
  if (options.demo) api.use(options.demo.routes);
  api.use((_req, _res, next) => next(new AppError('notFound')));
  app.use('/api', api);

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

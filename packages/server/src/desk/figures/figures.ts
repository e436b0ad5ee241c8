/**
 * Figures for anyone who runs the server, in the text format of Prometheus: what waits, what is late, what is unclear, and how long requests
 * take. Counts alone, and nobody's name. Told to who shows the token, in its place of RFC 6750.
 */
import { timingSafeEqual } from 'node:crypto';
import { Router, type RequestHandler } from 'express';
import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import { MINUTE } from '@zest-bell/core/time';
import type { ConnectionServices } from '../../connections/services.ts';
import { SourceRow } from '../../connections/entity.ts';
import { stoppedCourses } from '../../course/waiting.ts';
import { MailTroubleRow, WorkerRow } from '../../mail/outbox/entity.ts';
import { MessageRow } from '../../mail/nudges/entity.ts';
import { isWritable } from '../../platform/database/space.ts';
import { roomOf } from '../../platform/notices/room.ts';
import { routeOf } from '../../platform/http/requests.ts';
import type { Em } from '../../platform/database/orm.ts';
import { TroubleRow } from '../../rounds/deciding/entity.ts';
import { RuleRow } from '../../rules/entity.ts';

/** A round is late once it has not run for so long, in ms. */
const LATE = 2 * MINUTE;
/** Upper bounds of times of requests, in seconds. */
const BUCKETS = [0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10];

export class Figures {
  private readonly registry = new Registry();
  private readonly requests: Histogram;
  private readonly token: Buffer;

  /** `data` is the data folder; its disk is watched. */
  constructor(services: Pick<ConnectionServices, 'orm' | 'reading' | 'clock'>, token: string, data: string) {
    this.token = Buffer.from(token);
    const registers = [this.registry];
    collectDefaultMetrics({ register: this.registry });
    this.requests = new Histogram({
      name: 'zest_request_seconds',
      help: 'How long requests took',
      buckets: BUCKETS,
      registers,
      labelNames: ['method', 'route', 'status'] as const,
    });
    const gauge = (name: string, help: string, read: (em: Em, now: number) => Promise<number>) =>
      new Gauge({
        name,
        help,
        registers,
        async collect() {
          this.set(await read(services.reading.em.fork(), services.clock.now()));
        },
      });
    gauge('zest_rounds_late', 'Rules whose round is more than two minutes late', (em, now) => lateRounds(em, now));
    gauge('zest_mail_waiting', 'Messages that are due and have not left', (em, now) =>
      em.count(MessageRow, { state: 'queued', sendAt: { $lte: now } }),
    );
    gauge('zest_mail_unclear', 'Messages of which nobody knows whether they left', (em) =>
      em.count(MessageRow, { state: 'uncertain' }),
    );
    gauge('zest_round_troubles', 'Rules whose round failed and is tried again', (em) => em.count(TroubleRow, {}));
    gauge('zest_mail_troubles', 'What keeps mail from leaving: the mail server, or the sender of a course', (em) =>
      em.count(MailTroubleRow, {}),
    );
    gauge('zest_mail_workers', 'Processes that hand mail over', (em) => em.count(WorkerRow, {}));
    gauge('zest_writable', 'Zero while the disk of the database is full', () =>
      Promise.resolve(isWritable(services.orm) ? 1 : 0),
    );
    gauge('zest_disk_free_bytes', 'Room on the disk of the data folder', async () => (await roomOf(data)).free);
    gauge('zest_disk_size_bytes', 'Size of the disk of the data folder', async () => (await roomOf(data)).size);
    gauge(
      'zest_source_age_seconds',
      'How long ago anything came of the source that has been silent longest',
      oldestSource,
    );
  }

  /** Takes the time of every request. */
  readonly timing: RequestHandler = (req, res, next) => {
    const ended = this.requests.startTimer();
    res.once('finish', () => ended({ method: req.method, route: routeOf(req), status: String(res.statusCode) }));
    next();
  };

  readonly router = (): Router =>
    Router().get('/metrics', async (req, res) => {
      const shown = Buffer.from(/^Bearer (.+)$/i.exec(req.get('authorization') ?? '')?.[1] ?? '');
      if (shown.length !== this.token.length || !timingSafeEqual(shown, this.token)) {
        return void res.status(401).set('www-authenticate', 'Bearer').end();
      }
      res.type(this.registry.contentType).send(await this.registry.metrics());
    });
}

async function lateRounds(em: Em, now: number): Promise<number> {
  const stopped = await stoppedCourses(em);
  return em.count(RuleRow, { status: 'on', nextRoundAt: { $lt: now - LATE }, course: { $nin: [...stopped] } });
}

/** Zero where there is no source. */
async function oldestSource(em: Em, now: number): Promise<number> {
  const rows = await em.find(SourceRow, {}, { fields: ['heardAt', 'addedAt'], disableIdentityMap: true });
  return rows.reduce((most, row) => Math.max(most, now - (row.heardAt ?? row.addedAt)), 0) / 1000;
}

// Runs on PostgreSQL too.
/** Notifications between processes over PostgreSQL; on SQLite each process polls. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { pino } from 'pino';
import { isOnPostgres, placeIn } from '../../testing/database.ts';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { until } from '../../testing/until.ts';
import { noNews, type News } from './news.ts';

let stage: TestStage;
let news: News;
let heard = 0;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  heard = 0;
  const { databaseNews } = await import('./databaseNews.ts');
  news = isOnPostgres ? databaseNews(placeIn(stage.folder), stage.orm, pino({ level: 'silent' })) : noNews;
  news.on('mail', () => heard++);
});
afterEach(async () => {
  await news.close();
  await stage.close();
});

(isOnPostgres ? test : test.skip)('are heard, and heard again after the line was cut', async () => {
  // Once it listens, it reports once that there may be news.
  await until(() => heard === 1);
  await news.tell('mail');
  await until(() => heard === 2);
  await stage.orm.em
    .fork()
    .getConnection()
    .execute("select pg_terminate_backend(pid) from pg_stat_activity where query = 'listen zest_bell'");
  await until(() => heard === 3);
  await news.tell('mail');
  await until(() => heard === 4);
});

test('that cannot be told are no failure', async () => {
  await expect(news.tell('mail')).resolves.toBeUndefined();
});

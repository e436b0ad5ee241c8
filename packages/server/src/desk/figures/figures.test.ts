import { afterEach, expect, test } from '@jest/globals';
import express from 'express';
import request from 'supertest';
import { MINUTE } from '@zest-bell/core/time';
import { asTx } from '../../testing/asTx.ts';
import { insertNudge } from '../../testing/queued.ts';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { RuleRow } from '../../rules/entity.ts';
import { Figures } from './figures.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
afterEach(() => stage.close());

const TOKEN = 'sixteen characters';

test('figures are told to who shows the token, and name nobody', async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  const em = unguarded(stage.orm);
  const now = stage.clock.now();
  await insertNudge(asTx(em), { student: 'p1' }, [{ sendAt: now - 1 }, { sendAt: now + 9 }]);
  await insertNudge(asTx(em), { student: 'p2', state: 'uncertain' });
  await em.nativeUpdate(RuleRow, {}, { nextRoundAt: now - 3 * MINUTE });
  const figures = new Figures(stage.services, TOKEN, stage.folder);
  const app = express().use(figures.timing, figures.router());
  app.get('/courses/:course', (_req, res) => void res.json({}));
  await request(app).get('/courses/77');
  await request(app).get('/metrics').expect(401);
  await request(app).get('/metrics').set('authorization', 'Bearer another of sixteen').expect(401);
  const { text } = await request(app).get('/metrics').set('authorization', `Bearer ${TOKEN}`).expect(200);
  const value = (name: string) => Number(new RegExp(`^${name} (.*)$`, 'm').exec(text)?.[1]);
  expect(value('zest_rounds_late')).toBe(1);
  expect(value('zest_mail_waiting')).toBe(1);
  expect(value('zest_mail_unclear')).toBe(1);
  expect(value('zest_mail_troubles')).toBe(0);
  expect(value('zest_writable')).toBe(1);
  expect(value('zest_disk_free_bytes')).toBeLessThanOrEqual(value('zest_disk_size_bytes'));
  expect(text).toContain('zest_request_seconds_count{method="GET",route="/courses/:course",status="200"} 1');
  expect(text).not.toMatch(/p1|saltmarsh|\b77\b/);
  // Until a token is set, nobody is told.
  const unset = await request(stage.app).get('/metrics').set('authorization', `Bearer ${TOKEN}`);
  expect(unset.text).not.toContain('zest_mail_waiting');
});

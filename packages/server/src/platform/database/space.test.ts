/** A disk that is full, and a database that is gone: what requests and `/health` say. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import request from 'supertest';
import { isOnPostgres } from '../../testing/database.ts';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { AppError } from '../errors/errors.ts';
import { isDiskFull, isWritable, probeDiskSpace } from './space.ts';
import { isUnreachable } from './whenFree.ts';

let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());

// SQLite documentation, “PRAGMA max_page_count”: a write beyond it fails as on a full disk.
const pages = (most: number) => stage.orm.em.getConnection().execute(`pragma max_page_count = ${most}`);

(isOnPostgres ? test.skip : test)(
  'a full disk is told at any write, and by /health until a small write succeeds',
  async () => {
    const ada = await stage.signIn();
    const health = () => request(stage.app).get('/health');
    await health().expect(200, { application: 'zest-bell', ready: true });
    const [row] = await stage.orm.em.getConnection().execute<{ page_count: number }[]>('pragma page_count');
    await pages(row!.page_count);
    const wording = { name: 'Long', purpose: 'support', subject: 'Hello', text: 'x'.repeat(19_000) };
    const make = (id: string) => ada.post('/api/v1/courses/1/wordings').send({ wording: { id, ...wording } });
    const refused = await make('a').expect(507);
    expect((refused.body as { code: string }).code).toBe('diskFull');
    await health().expect(503, { application: 'zest-bell', ready: true, writable: false });
    await pages(1_000_000);
    await probeDiskSpace(stage.orm);
    expect(isWritable(stage.orm)).toBe(true);
    await health().expect(200);
    await make('a').expect(201);
  },
);

// Messages of PostgreSQL, of SQLite and of the libraries between, typed from memory.
test.each([
  [Object.assign(new Error('could not write to file: No space left on device'), { code: '53100' }), true],
  [Object.assign(new Error('SQLITE_FULL: database or disk is full'), { code: 'SQLITE_FULL' }), true],
  [Object.assign(new Error('ENOSPC: no space left on device, write'), { code: 'ENOSPC' }), true],
  [new AppError('busy', [], { cause: Object.assign(new Error('full'), { code: '53100' }) }), true],
  [new AppError('busy'), false],
  [new Error('duplicate key value'), false],
])('%s is a full disk: %s', (error, isFull) => {
  expect(isDiskFull(error)).toBe(isFull);
});

test.each([
  ['insert into x - Client has encountered a connection error and is not queryable', true],
  ['Connection terminated unexpectedly', true],
  ['Client was closed and is not queryable', true],
  ['Unable to acquire a connection', true],
  ['aborted', true],
  ['the message was aborted by its sender', false],
])('“%s” is a database that cannot be reached: %s', (message, isGone) => {
  expect(isUnreachable(new Error(message))).toBe(isGone);
});

/** Requests in work: how many at once, in which order, and what becomes of those that nobody waits for. */
import { EventEmitter, once } from 'node:events';
import type { AddressInfo } from 'node:net';
import express, { type Response } from 'express';
import { pino } from 'pino';
import { beforeEach, expect, test } from '@jest/globals';
import { until } from '../../testing/until.ts';
import { problemDetails } from '../http/http.ts';
import {
  admitted,
  admitting,
  byItself,
  currentAsking,
  elsewhere,
  keepingPlace,
  LIMITS,
  RequestQueue,
} from './requestQueue.ts';

class Asker extends EventEmitter {
  closed = false;
  readonly destroyed = false;
  readonly res = this as unknown as Response;
  leave(): void {
    this.closed = true;
    this.emit('close');
  }
}

let queue: RequestQueue;
/** What is in work, in the order in which it began. */
let begun: string[];
const endings = new Map<string, () => void>();
beforeEach(() => {
  queue = new RequestQueue({ ofOne: 2, ofAll: 3, waiting: 2 });
  begun = [];
  endings.clear();
});

const turns = () => new Promise((resolve) => setImmediate(resolve));

/** A request that is in work until its ending is called. */
function ask(account: string, name: string, asker = new Asker()): Promise<unknown> {
  const result = queue.run(account, asker.res, () => {
    begun.push(name);
    return new Promise<void>((resolve) => endings.set(name, resolve));
  });
  result.catch(() => undefined);
  return result;
}
async function end(name: string): Promise<void> {
  endings.get(name)!();
  await turns();
}

test('an account has so many in work, the process so many, and those who wait are served in turns', async () => {
  for (const name of ['a1', 'a2', 'a3', 'a4']) void ask('a', name);
  for (const name of ['b1', 'b2']) void ask('b', name);
  void ask('c', 'c1');
  await turns();
  expect(begun).toEqual(['a1', 'a2', 'b1']);
  await end('a1');
  expect(begun.slice(3)).toEqual(['a3']);
  await end('b1');
  expect(begun.slice(4)).toEqual(['b2']);
  await end('a2');
  expect(begun.slice(5)).toEqual(['c1']);
  await end('a3');
  expect(begun.slice(6)).toEqual(['a4']);
});

test('one who has too many waiting is told when to come again, and others are not', async () => {
  for (const name of ['a1', 'a2', 'a3', 'a4']) void ask('a', name);
  await expect(ask('a', 'a5')).rejects.toMatchObject({ code: 'tooManyRequests', retryAfter: 2 });
  void ask('b', 'b1');
  await turns();
  expect(begun).toContain('b1');
});

test('what nobody waits for any more never begins, and takes nobody’s turn', async () => {
  const goes = new Asker();
  for (const name of ['a1', 'a2']) void ask('a', name);
  const waits = ask('a', 'a3', goes);
  void ask('a', 'a4');
  goes.leave();
  await expect(waits).rejects.toMatchObject({ code: 'busy' });
  await end('a1');
  expect(begun).toEqual(['a1', 'a2', 'a4']);
  await expect(ask('b', 'b1', goes)).rejects.toMatchObject({ code: 'busy' });
});

test('one that fails gives its place to the next', async () => {
  const fails = () => queue.run('a', new Asker().res, () => Promise.reject(new Error('no')));
  for (let n = 0; n < 10; n++) await expect(fails()).rejects.toThrow('no');
  void ask('a', 'a1');
  await turns();
  expect(begun).toEqual(['a1']);
});

test('what waits for something elsewhere gives its place away meanwhile, and takes one again afterwards', async () => {
  let answers = () => undefined as void;
  const answer = () => new Promise<void>((resolve) => (answers = resolve));
  const result = queue.run('a', new Asker().res, async () => {
    begun.push('asks');
    await elsewhere(() => Promise.all([elsewhere(answer), elsewhere(() => Promise.resolve())]));
    begun.push('goes on');
  });
  void ask('a', 'a1');
  void ask('a', 'a2');
  await turns();
  expect(begun).toEqual(['asks', 'a1', 'a2']);
  answers();
  await turns();
  expect(begun).toHaveLength(3);
  await end('a1');
  expect(begun.slice(3)).toEqual(['goes on']);
  await result;
  // Its place is free, once.
  for (const name of ['a3', 'a4']) void ask('a', name);
  await turns();
  expect(begun.slice(4)).toEqual(['a3']);
  await end('a2');
  expect(begun.slice(5)).toEqual(['a4']);
});

test('what holds a lock keeps its place, whatever it waits for', async () => {
  const result = queue.run('a', new Asker().res, () =>
    keepingPlace(() =>
      elsewhere(() => {
        begun.push('asks');
        return new Promise<void>((resolve) => endings.set('asks', resolve));
      }),
    ),
  );
  for (const name of ['a1', 'a2']) void ask('a', name);
  await turns();
  expect(begun).toEqual(['asks', 'a1']);
  await end('asks');
  await result;
  expect(begun).toEqual(['asks', 'a1', 'a2']);
});

test('it is known for whom something is done, until they have their answer', async () => {
  const asker = new Asker();
  let later: Promise<unknown> | null = null;
  await queue.run('a', asker.res, async () => {
    const asking = currentAsking()!;
    expect(asking).toMatchObject({ asker: 'a', res: asker.res });
    expect(byItself(currentAsking)).toBeNull();
    later = turns().then(currentAsking);
    asker.leave();
    expect(asking.gone.aborted).toBe(true);
    await Promise.resolve();
  });
  await expect(later).resolves.toBeNull();
  expect(currentAsking()).toBeNull();
});

test('what goes on after the answer holds no place, and needs none', async () => {
  let answers = () => undefined as void;
  let after: Promise<string> | null = null;
  await queue.run('a', new Asker().res, async () => {
    after = elsewhere(() => new Promise<string>((resolve) => (answers = () => resolve('there'))));
    await turns();
  });
  answers();
  await expect(after).resolves.toBe('there');
  for (const name of ['a1', 'a2', 'a3']) void ask('a', name);
  await turns();
  expect(begun).toEqual(['a1', 'a2']);
  await expect(elsewhere(() => Promise.resolve(1))).resolves.toBe(1);
});

test('of many requests of one browser a hundred wait, the others are told when to come again, and other browsers are answered', async () => {
  const app = express();
  const held: Response[] = [];
  app.use(admitting((req) => req.path === '/at-once'));
  app.get('/at-once', (_req, res) => void res.end());
  app.get('/held', (_req, res) => void held.push(res));
  app.get('/known', admitted, (_req, res) => void held.push(res));
  app.use(problemDetails(pino({ level: 'silent' })));
  const server = app.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const get = (path: string, cookie: string) => fetch(`${base}${path}`, { headers: { cookie } });
  const [many, more] = [LIMITS.ofOne + LIMITS.waiting, 20];
  let refused: (string | null)[] = [];
  const all = Array.from({ length: many + more }, async () => {
    const { status, headers } = await get('/held', 'a=1');
    if (status === 429) refused = [...refused, headers.get('retry-after')];
    return status;
  });
  await until(() => refused.length === more);
  expect(held).toHaveLength(LIMITS.ofOne);
  expect(new Set(refused)).toEqual(new Set(['2']));
  expect((await get('/at-once', 'a=1')).status).toBe(200);
  // It is known who asks: the place is free for the next.
  const others = Array.from({ length: LIMITS.ofAll }, () => get('/known', 'b=1'));
  await until(() => held.length === LIMITS.ofOne + LIMITS.ofAll);
  const release = setInterval(() => held.splice(0).forEach((res) => res.end()), 5);
  expect((await Promise.all(all)).filter((status) => status === 200)).toHaveLength(many);
  expect((await Promise.all(others)).every(({ status }) => status === 200)).toBe(true);
  clearInterval(release);
  server.close();
});

import { AsyncLocalStorage } from 'node:async_hooks';
import { expect, test } from '@jest/globals';
import { within, type WorkInParts } from '@zest-bell/core/time';
import { busy } from '../../testing/busy.ts';
import { afterOthers, inTurns } from './inTurns.ts';

test('a part of a longer work has its share of the whole', async () => {
  const shares: number[] = [];
  const half = function* (): WorkInParts<string> {
    busy(15);
    yield 0.5;
    busy(15);
    yield;
    busy(15);
    yield 1;
    return 'done';
  };
  const whole = () => within(half(), 0.5, 1);
  expect(await inTurns(whole, undefined, (share) => shares.push(share))).toBe('done');
  expect(shares).toEqual([0.75, 1]);
});

test('ends when nobody waits any more', async () => {
  let parts = 0;
  const work = function* (): WorkInParts<void> {
    for (;;) {
      parts++;
      busy(15);
      yield;
    }
  };
  await expect(inTurns(work, () => parts >= 2)).rejects.toMatchObject({ code: 'busy' });
  expect(parts).toBe(2);
});

test('a step of something long waits for the others, once this turn has taken its time', async () => {
  await new Promise(setImmediate);
  let turns = 0;
  const count = () => void turns++;
  setImmediate(count);
  expect(await afterOthers(() => turns)).toBe(0);
  busy(15);
  expect(await afterOthers(() => turns)).toBe(1);
  setImmediate(count);
  expect(await afterOthers(() => turns)).toBe(1);
});

test('steps that wait run in the order in which they came, before any that come later', async () => {
  await new Promise(setImmediate);
  await afterOthers(() => undefined);
  busy(15);
  const served: string[] = [];
  const ask = (name: string) =>
    Promise.resolve(
      afterOthers(() => {
        served.push(name);
        busy(8);
      }),
    );
  // Each comes again at once, as one who has more to do does.
  const twice = async (name: string) => {
    await ask(`${name}1`);
    await ask(`${name}2`);
  };
  await Promise.all(['a', 'b', 'c', 'd'].map(twice));
  expect(served).toEqual(['a1', 'b1', 'c1', 'd1', 'a2', 'b2', 'c2', 'd2']);
});

test('a step that fails rejects its own caller and no other', async () => {
  await afterOthers(() => undefined);
  busy(15);
  const fails = Promise.resolve(
    afterOthers(() => {
      throw new Error('no');
    }),
  );
  const works = Promise.resolve(afterOthers(() => 'yes'));
  await expect(fails).rejects.toThrow('no');
  await expect(works).resolves.toBe('yes');
});

test('a waiting step runs in the context of its own caller', async () => {
  await new Promise(setImmediate);
  await afterOthers(() => undefined);
  busy(15);
  const context = new AsyncLocalStorage<string>();
  const asked = (name: string) => context.run(name, () => Promise.resolve(afterOthers(() => context.getStore())));
  const whose = [asked('lease'), asked('request'), Promise.resolve(afterOthers(() => context.getStore()))];
  expect(await Promise.all(whose)).toEqual(['lease', 'request', undefined]);
});

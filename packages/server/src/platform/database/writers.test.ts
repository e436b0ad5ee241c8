import { describe, expect, test } from '@jest/globals';
import { holdBackWrites, mayWrite } from './writers.ts';
import type { Orm } from './orm.ts';

const database = () => ({}) as Orm;

describe('writes while a thread has the lock', () => {
  test('wait until it tells that it is done, those of other databases do not', async () => {
    const [mine, other] = [database(), database()];
    const letGo = holdBackWrites(mine);
    const order: string[] = [];
    const waiting = mayWrite(mine).then(() => order.push('mine'));
    await mayWrite(other).then(() => order.push('other'));
    letGo();
    await waiting;
    await mayWrite(mine).then(() => order.push('after'));
    expect(order).toEqual(['other', 'mine', 'after']);
  });

  test('are refused as busy where that takes too long, and go on once it is over', async () => {
    const mine = database();
    const letGo = holdBackWrites(mine);
    await expect(mayWrite(mine, 5)).rejects.toMatchObject({ code: 'busy' });
    letGo();
    await mayWrite(mine, 5);
  });
});

import { expect, test } from '@jest/globals';
import { DriverException } from '@mikro-orm/core';
import { withoutValues } from './withoutValues.ts';

test('what is logged of a failed statement says what failed, and none of its values', () => {
  const sql = "insert into `session` (`data`) values ('{\"cookie\":1}', 'secret-hash')";
  const error = new DriverException(new Error(`${sql} - SQLITE_FULL: database or disk is full`));
  const logged = withoutValues(error);
  expect(logged).toMatchObject({ table: 'session', message: 'SQLITE_FULL: database or disk is full' });
  expect(JSON.stringify(logged)).not.toMatch(/secret-hash|cookie/);
});

test('any other error is logged with where it came from', () => {
  expect(withoutValues(new Error('lost'))).toMatchObject({ type: 'Error', message: 'lost', stack: expect.any(String) });
  expect(withoutValues('odd')).toBe('odd');
});

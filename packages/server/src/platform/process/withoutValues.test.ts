import { expect, test } from '@jest/globals';
import { DriverException } from '@mikro-orm/core';
import { withoutValues } from './withoutValues.ts';

const SQL =
  "insert into `attempt` (`address`, `body`) values ('imani@saltmarsh.example', 'Imani,\n\nit has been 13 days.')";
const isClean = (logged: unknown) => expect(JSON.stringify(logged)).not.toMatch(/imani|13 days|saltmarsh/i);

test('what is logged of a failed statement says what failed, and none of its values', () => {
  const logged = withoutValues(new DriverException(new Error(`${SQL} - SQLITE_FULL: database or disk is full`)));
  expect(logged).toMatchObject({ table: 'attempt', message: 'SQLITE_FULL: database or disk is full' });
  isClean(logged);
});

test.each([
  [
    'a plain error of the library of queries',
    new Error(`${SQL} - Client has encountered a connection error and is not queryable`),
  ],
  [
    'one that quotes a value behind the statement',
    new Error(`${SQL} - duplicate key (address)=(imani@saltmarsh.example)`),
  ],
  ['one that is the cause of another', new Error('a round failed', { cause: new Error(`${SQL} - terminated`) })],
  [
    'one of PostgreSQL, whose sentences quote values',
    Object.assign(new Error('Key (a)=(imani) exists'), { severity: 'ERROR', code: '23505' }),
  ],
  ['a statement that is no error at all', SQL],
])('%s is logged without values', (_name, error) => isClean(withoutValues(error)));

test('a lost line is still told apart by what the library says', () => {
  const logged = withoutValues(new Error(`${SQL} - Client has encountered a connection error and is not queryable`));
  expect(logged).toMatchObject({ message: 'Client has encountered a connection error and is not queryable' });
});

test('any other error is logged with where it came from', () => {
  expect(withoutValues(new Error('lost'))).toMatchObject({ type: 'Error', message: 'lost', stack: expect.any(String) });
  expect(withoutValues('odd')).toBe('odd');
});

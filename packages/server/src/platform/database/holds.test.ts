/** What does not compile: `npm run typecheck` fails where one of these does. */
import { defineEntity, p } from '@mikro-orm/core';
import { expect, test } from '@jest/globals';
import { holds, key, name, plain, redactedIn, withoutNamed, type ErasedStudent } from './holds.ts';

const CatRow = defineEntity({ name: 'CatRow', properties: { id: p.integer().primary(), name: p.string() } });

test('a table says of every column what it holds', () => {
  expect(holds(CatRow, { owner: ['course'], columns: { id: key, name: name.emptied('') } }).about).toEqual([]);
  // @ts-expect-error: the name is left out.
  holds(CatRow, { owner: ['course'], columns: { id: key } });
  // @ts-expect-error: there is no such column.
  holds(CatRow, { owner: ['course'], columns: { id: key, name: plain, color: plain } });
  // @ts-expect-error: nobody is such an owner.
  holds(CatRow, { owner: ['somebody'], columns: { id: key, name: plain } });
});

const gone: ErasedStudent = {
  id: 'p1',
  standsAs: 'erased:1',
  isCalled: () => false,
  isNamed: (text) => text.includes('Imani Okoro'),
  isThem: (text) => text === 'p1' || text.includes('Imani Okoro'),
  redacted: (text) => text.replaceAll('Imani Okoro', 'a student'),
};

test('texts lose the name wherever they stand in a value, and nothing else changes', () => {
  expect(redactedIn({ a: ['for Imani Okoro', 7, null], 'Imani Okoro': { b: 'x' } }, gone)).toEqual({
    a: ['for a student', 7, null],
    'a student': { b: 'x' },
  });
});

test('entries that name them go, by their key or their value, and members of lists', () => {
  expect(withoutNamed({ said: 'p1', p1: 'x', all: ['p1', 'p2'], n: 1 }, gone.isThem)).toEqual({ all: ['p2'], n: 1 });
});

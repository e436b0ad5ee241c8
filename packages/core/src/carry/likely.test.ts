import { expect, test } from '@jest/globals';
import type { ItemKind } from '../course/item.ts';
import { likelyMatches } from './likely.ts';
import { matchItems } from './match.ts';

const known = (id: string, title: string, kind: ItemKind = 'quiz') => ({ id, title, kind });
const likely = (source: ReturnType<typeof known>[], target: ReturnType<typeof known>[]) =>
  Object.fromEntries(likelyMatches(source, target, matchItems(source, target)));

test('an item without a match is proposed the one that shares its words, whatever their endings', () => {
  expect(likely([known('a', 'Tide tables quiz')], [known('x', 'Tides quiz'), known('y', 'Currents quiz')])).toEqual({
    a: 'x',
  });
  expect(likely([known('a', 'Where you stand', 'page')], [known('x', 'Your standing', 'page')])).toEqual({ a: 'x' });
});

test('items of the same kind without shared words are not proposed, and neither are two equally likely ones', () => {
  expect(likely([known('a', 'Tide quiz')], [known('x', 'Currents quiz')])).toEqual({});
  expect(likely([known('a', 'Tide tables')], [known('x', 'Tides, part one'), known('y', 'Tides, part two')])).toEqual(
    {},
  );
  expect(likely([known('a', 'Tide tables')], [known('x', 'Tide tables', 'page')])).toEqual({});
});

test('what has a match, or was told to have none, is not proposed another', () => {
  const [source, target] = [[known('a', 'Tide tables'), known('b', 'Tides again')], [known('x', 'Tide tables')]];
  expect(likely(source, target)).toEqual({});
  const told = matchItems([known('b', 'Tides again')], [known('x', 'Tide tables')], { b: null });
  expect(likelyMatches([known('b', 'Tides again')], [known('x', 'Tide tables')], told).size).toBe(0);
});

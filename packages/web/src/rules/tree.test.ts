import { expect, test } from '@jest/globals';
import type { Condition, Leaf } from '@zest-bell/core';
import { addAt, at, leavesWithPaths, replaceAt, withKind } from './tree.ts';

const leaf = (value: number): Leaf => ({ measure: 'daysSinceVisit', is: '>=', value });
const [a, b, c] = [leaf(1), leaf(2), leaf(3)];
const tree: Condition = { all: [a, { any: [b, c] }] };

test('a condition is replaced where its path leads, and nothing else changes', () => {
  expect(replaceAt(tree, [1, 0], leaf(9))).toEqual({ all: [a, { any: [leaf(9), c] }] });
  expect(replaceAt(a, [], b)).toEqual(b);
  expect(tree).toEqual({ all: [a, { any: [b, c] }] });
});

test('a group left with one condition gives way to it; “none” does not, as it says something else', () => {
  expect(replaceAt(tree, [1, 0], null)).toEqual({ all: [a, c] });
  expect(replaceAt({ all: [a, b] }, [0], null)).toEqual(b);
  expect(replaceAt({ none: [a, b] }, [0], null)).toEqual({ none: [b] });
  expect(replaceAt(a, [], null)).toBeNull();
  expect(replaceAt({ none: [a] }, [0], null)).toBeNull();
});

test('a condition is added to its group, and a lone one becomes two', () => {
  expect(addAt(tree, [1], a)).toEqual({ all: [a, { any: [b, c, a] }] });
  expect(addAt(a, [], b)).toEqual({ all: [a, b] });
});

test('a group changes how its conditions join', () => {
  expect(withKind(tree, [1], 'none')).toEqual({ all: [a, { none: [b, c] }] });
});

test('every leaf is found again by its path, in the tree’s order', () => {
  const found = leavesWithPaths(tree);
  expect(found.map((f) => f.path)).toEqual([[0], [1, 0], [1, 1]]);
  for (const { leaf: l, path } of found) expect(at(tree, path)).toBe(l);
});

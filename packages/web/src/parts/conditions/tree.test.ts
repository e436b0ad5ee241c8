import { describe, expect, test } from '@jest/globals';
import { parseCondition, type Condition, type Leaf } from '@zest-bell/core/conditions';
import fc from 'fast-check';
import {
  addAt,
  at,
  copyAt,
  dissolve,
  groupTogether,
  leavesWithPaths,
  moveDown,
  moveIn,
  moveOut,
  moveTo,
  moveUp,
  replaceAt,
  withKind,
} from './tree.ts';

const leaf = (value: number): Leaf => ({ measure: 'daysSinceVisit', is: '>=', value });
const [a, b, c] = [leaf(1), leaf(2), leaf(3)];
const tree = { all: [a, { any: [b, c] }] } satisfies Condition;

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

describe('moving a condition', () => {
  const d = leaf(4);
  const flat: Condition = { all: [a, b, c] };
  const moved = (m: { tree: Condition; path: readonly number[] } | null) => m && [m.tree, m.path];

  test('up and down past its neighbours, and out of its group at the ends', () => {
    expect(moved(moveUp(flat, [1]))).toEqual([{ all: [b, a, c] }, [0]]);
    expect(moved(moveDown(flat, [1]))).toEqual([{ all: [a, c, b] }, [2]]);
    expect(moved(moveUp({ all: [a, { any: [b, c, d] }] }, [1, 0]))).toEqual([{ all: [a, b, { any: [c, d] }] }, [1]]);
    expect(moved(moveDown({ all: [{ any: [b, c, d] }, a] }, [0, 2]))).toEqual([{ all: [{ any: [b, c] }, d, a] }, [1]]);
    expect(moveUp(flat, [0])).toBeNull();
    expect(moveDown(a, [])).toBeNull();
  });

  test('into a group with the one above, of the kind that says something new; and out again', () => {
    expect(moved(moveIn(flat, [1]))).toEqual([{ all: [{ any: [a, b] }, c] }, [0, 1]]);
    expect(moved(moveIn({ any: [a, b, c] }, [2]))).toEqual([{ any: [a, { all: [b, c] }] }, [1, 1]]);
    expect(moved(moveIn({ all: [{ any: [a, b] }, c] }, [1]))).toEqual([{ any: [a, b, c] }, [2]]);
    expect(moved(moveOut({ all: [a, { any: [b, c, d] }] }, [1, 0]))).toEqual([{ all: [a, { any: [c, d] }, b] }, [2]]);
    expect(moveIn({ all: [a, b] }, [1])).toBeNull();
    expect(moveOut(flat, [0])).toBeNull();
  });

  test('by dropping it before another one, onto another one, or into a group', () => {
    expect(moved(moveTo(flat, [2], [], 0))).toEqual([{ all: [c, a, b] }, [0]]);
    expect(moved(groupTogether(flat, [0], [2]))).toEqual([{ all: [b, { any: [c, a] }] }, [1, 1]]);
    const nested: Condition = { all: [a, b, { any: [c, d] }] };
    expect(moved(groupTogether(nested, [0], [2]))).toEqual([{ all: [b, { any: [c, d, a] }] }, [1, 2]]);
    expect(moveTo(nested, [2], [2], 0)).toBeNull();
    expect(groupTogether(nested, [2], [2, 0])).toBeNull();
  });

  test('a group moves as one', () => {
    expect(moved(moveUp(tree, [1]))).toEqual([{ all: [{ any: [b, c] }, a] }, [0]]);
  });
});

test('a copy stands behind what it is of', () => {
  expect(copyAt(tree, [1, 0])).toMatchObject({ tree: { all: [a, { any: [b, b, c] }] }, path: [1, 1] });
  expect(copyAt(a, [])).toEqual({ tree: { all: [a, a] }, path: [1] });
  expect(copyAt(tree, []).tree).toEqual({ all: [...tree.all, tree] });
});

test('a dissolved group leaves its conditions where it stood; “none of” would turn round and stays', () => {
  expect(dissolve(tree, [1])).toEqual({ all: [a, b, c] });
  expect(dissolve({ all: [a, { none: [b, c] }] }, [1])).toBeNull();
  expect(dissolve(tree, [])).toBeNull();
});

test('whatever is moved, no condition is lost or doubled, and the tree can be read again', () => {
  const leafAt = fc.integer({ min: 0, max: 9 }).map(leaf);
  const { node } = fc.letrec<{ node: Condition }>((tie) => ({
    node: fc.oneof(
      { depthSize: 'small' },
      leafAt,
      fc
        .tuple(fc.constantFrom('all', 'any', 'none'), fc.array(tie('node'), { minLength: 1, maxLength: 4 }))
        .map(([kind, children]) => ({ [kind]: children }) as unknown as Condition),
    ),
  }));
  const moves = [moveUp, moveDown, moveIn, moveOut];
  const values = (t: Condition) =>
    leavesWithPaths(t)
      .map((l) => Number(l.leaf.value))
      .sort();
  fc.assert(
    fc.property(node, fc.array(fc.tuple(fc.nat(), fc.nat(3)), { maxLength: 8 }), (start, steps) => {
      let now = start;
      for (const [pick, move] of steps) {
        const leaves = leavesWithPaths(now);
        const next = moves[move]!(now, leaves[pick % leaves.length]!.path);
        if (!next) continue;
        expect(values(next.tree)).toEqual(values(now));
        expect(at(next.tree, next.path)).toBe(leaves[pick % leaves.length]!.leaf);
        expect(parseCondition(next.tree)).toMatchObject({ ok: true });
        now = next.tree;
      }
    }),
  );
});

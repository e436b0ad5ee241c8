/** Changes to a condition's tree, each giving a new tree. A path is the child's place in each group from the top. */
import { groupOf, isLeaf, makeGroup, type Condition, type GroupKind, type Leaf } from '@zest-bell/core';

export type Path = readonly number[];

/** Puts `next` where the path leads; null takes it out, and a group left with one child gives way to it. */
export function replaceAt(tree: Condition, path: Path, next: Condition | null): Condition | null {
  const [at, ...rest] = path;
  if (at === undefined) return next;
  if (isLeaf(tree)) return tree;
  const { kind, children } = groupOf(tree);
  const changed = children.flatMap((child, i) => {
    if (i !== at) return [child];
    const replaced = replaceAt(child, rest, next);
    return replaced === null ? [] : [replaced];
  });
  if (changed.length === 0) return null;
  // "None of one thing" says something else than the thing itself.
  if (changed.length === 1 && kind !== 'none' && children.length > 1) return changed[0]!;
  return makeGroup(kind, changed);
}

/** Adds a condition to the group at the path; a lone condition becomes "all of" with it. */
export function addAt(tree: Condition, path: Path, added: Condition): Condition {
  const target = at(tree, path);
  const grown = isLeaf(target)
    ? makeGroup('all', [target, added])
    : makeGroup(groupOf(target).kind, [...groupOf(target).children, added]);
  return replaceAt(tree, path, grown)!;
}

export function withKind(tree: Condition, path: Path, kind: GroupKind): Condition {
  const target = at(tree, path);
  return isLeaf(target) ? tree : replaceAt(tree, path, makeGroup(kind, groupOf(target).children))!;
}

export function at(tree: Condition, path: Path): Condition {
  return path.reduce<Condition>((c, i) => (isLeaf(c) ? c : groupOf(c).children[i]!), tree);
}

/** Every leaf with its path, in the tree's order. */
export function leavesWithPaths(tree: Condition, path: Path = []): { leaf: Leaf; path: Path }[] {
  if (isLeaf(tree)) return [{ leaf: tree, path }];
  return groupOf(tree).children.flatMap((child, i) => leavesWithPaths(child, [...path, i]));
}

export const samePath = (a: Path, b: Path): boolean => a.join() === b.join();

/** Changes to a condition's tree, each giving a new tree. A path is the child's place in each group from the top. */
import { groupOf, isLeaf, makeGroup, type Condition, type GroupKind, type Leaf } from '@zest-bell/core/conditions';

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

/** Adds a condition to the group at the path; a lone condition becomes an "all of" group of both. */
export function addAt(tree: Condition, path: Path, added: Condition): Condition {
  const target = at(tree, path);
  const grown = isLeaf(target)
    ? makeGroup('all', [target, added])
    : makeGroup(groupOf(target).kind, [...groupOf(target).children, added]);
  return replaceAt(tree, path, grown)!;
}

/** Two conditions in place of one, both of which have to be true: beside it in a group of “all”, or in one of their own. */
export function splitAt(tree: Condition, path: Path, two: readonly [Leaf, Leaf]): Condition {
  const place = placeOf(path);
  const parent = place && groupAt(tree, place.parent);
  if (!place || parent!.kind !== 'all') return replaceAt(tree, path, makeGroup('all', two))!;
  return replaceAt(tree, place.parent, makeGroup('all', parent!.children.toSpliced(place.index, 1, ...two)))!;
}

export function withKind(tree: Condition, path: Path, kind: GroupKind): Condition {
  const target = at(tree, path);
  return isLeaf(target) ? tree : replaceAt(tree, path, makeGroup(kind, groupOf(target).children))!;
}

export function at(tree: Condition, path: Path): Condition {
  return path.reduce<Condition>((c, i) => (isLeaf(c) ? c : groupOf(c).children[i]!), tree);
}

/** The group that a path leads to; a leaf there is a mistake of the caller. */
function groupAt(tree: Condition, path: Path): { kind: GroupKind; children: readonly Condition[] } {
  const node = at(tree, path);
  if (isLeaf(node)) throw new Error('A condition is no group');
  return groupOf(node);
}

/** Every leaf with its path, in the tree's order. */
export function leavesWithPaths(tree: Condition, path: Path = []): { leaf: Leaf; path: Path }[] {
  if (isLeaf(tree)) return [{ leaf: tree, path }];
  return groupOf(tree).children.flatMap((child, i) => leavesWithPaths(child, [...path, i]));
}

export const samePath = (a: Path, b: Path): boolean => a.join() === b.join();

/** The group a node is in, and its place there; null for the whole tree. */
export const placeOf = (path: Path): { parent: Path; index: number } | null =>
  path.length === 0 ? null : { parent: path.slice(0, -1), index: path.at(-1)! };

/** A tree after a change, and where the node that was acted on is now. */
export interface MovedNode {
  readonly tree: Condition;
  readonly path: Path;
}

/** Takes a node out and puts it before the child `index` of the group at `parent`, both counted before the change. */
export function moveTo(tree: Condition, from: Path, parent: Path, index: number): MovedNode | null {
  const moving = at(tree, from);
  const inside = parent.length >= from.length && samePath(parent.slice(0, from.length), from);
  if (from.length === 0 || inside || isLeaf(at(tree, parent))) return null;
  // A hole keeps the places of the others until the node has reached its own.
  const hole: Leaf = { measure: 'visits', is: 'filled' };
  const marked = replaceAt(tree, from, hole)!;
  const { kind, children } = groupAt(marked, parent);
  const grown = replaceAt(
    marked,
    parent,
    makeGroup(kind, [...children.slice(0, index), moving, ...children.slice(index)]),
  )!;
  return found(replaceAt(grown, pathTo(grown, hole)!, null)!, moving);
}

/** Puts a node together with another one into a group of their own: "any" within "all", "all" within the others. */
export function groupTogether(tree: Condition, from: Path, onto: Path): MovedNode | null {
  const moving = at(tree, from);
  const target = at(tree, onto);
  if (samePath(from, onto) || from.length === 0 || samePath(onto.slice(0, from.length), from)) return null;
  if (!isLeaf(target)) return moveTo(tree, from, onto, groupOf(target).children.length);
  const place = placeOf(onto);
  // Two that are alone in their group are grouped already.
  const alone = place && samePath(place.parent, from.slice(0, -1)) && groupAt(tree, place.parent).children.length === 2;
  if (alone) return null;
  const outer = place ? groupAt(tree, place.parent).kind : 'all';
  const hole: Leaf = { measure: 'visits', is: 'filled' };
  const marked = replaceAt(tree, from, hole)!;
  const joined = replaceAt(marked, onto, makeGroup(outer === 'all' ? 'any' : 'all', [target, moving]))!;
  return found(replaceAt(joined, pathTo(joined, hole)!, null)!, moving);
}

/** One place up: past the sibling above, or out of the group from its first place. */
export function moveUp(tree: Condition, path: Path): MovedNode | null {
  const place = placeOf(path);
  if (!place) return null;
  if (place.index > 0) return moveTo(tree, path, place.parent, place.index - 1);
  const outer = placeOf(place.parent);
  return outer && moveTo(tree, path, outer.parent, outer.index);
}

/** One place down: past the sibling below, or out of the group from its last place. */
export function moveDown(tree: Condition, path: Path): MovedNode | null {
  const place = placeOf(path);
  if (!place) return null;
  const siblings = groupAt(tree, place.parent).children.length;
  if (place.index < siblings - 1) return moveTo(tree, path, place.parent, place.index + 2);
  const outer = placeOf(place.parent);
  return outer && moveTo(tree, path, outer.parent, outer.index + 1);
}

/** Into a group with the sibling above. */
export function moveIn(tree: Condition, path: Path): MovedNode | null {
  const place = placeOf(path);
  if (!place || place.index === 0) return null;
  return groupTogether(tree, path, [...place.parent, place.index - 1]);
}

/** Out of its group, behind it. */
export function moveOut(tree: Condition, path: Path): MovedNode | null {
  const place = placeOf(path);
  const outer = place && placeOf(place.parent);
  return outer && moveTo(tree, path, outer.parent, outer.index + 1);
}

/** Conditions as new objects, so that each is found on its own. */
function copyOf(node: Condition): Condition {
  if (isLeaf(node)) return { ...node };
  const { kind, children } = groupOf(node);
  return makeGroup(kind, children.map(copyOf));
}

/** A copy behind the node itself. */
export function copyAt(tree: Condition, path: Path): MovedNode {
  const copy = copyOf(at(tree, path));
  const place = placeOf(path);
  if (!place) return { tree: addAt(tree, [], copy), path: [isLeaf(tree) ? 1 : groupOf(tree).children.length] };
  const { kind, children } = groupAt(tree, place.parent);
  const grown = makeGroup(kind, [...children.slice(0, place.index + 1), copy, ...children.slice(place.index + 1)]);
  return found(replaceAt(tree, place.parent, grown)!, copy)!;
}

/** Children of a nested group take its place; what "none of" held is then asked for, so that kind stays. */
export function dissolve(tree: Condition, path: Path): Condition | null {
  const node = at(tree, path);
  const place = placeOf(path);
  if (isLeaf(node) || !place || groupOf(node).kind === 'none') return null;
  const { kind, children } = groupAt(tree, place.parent);
  const spread = children.flatMap((c, i) => (i === place.index ? groupOf(node).children : [c]));
  return replaceAt(tree, place.parent, makeGroup(kind, spread));
}

/** The place of an object in the tree, by identity. */
function pathTo(tree: Condition, wanted: Condition, path: Path = []): Path | null {
  if (tree === wanted) return path;
  if (isLeaf(tree)) return null;
  for (const [i, child] of groupOf(tree).children.entries()) {
    const below = pathTo(child, wanted, [...path, i]);
    if (below) return below;
  }
  return null;
}

function found(tree: Condition, node: Condition): MovedNode | null {
  const path = pathTo(tree, node);
  return path && { tree, path };
}

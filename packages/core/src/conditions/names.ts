/** Everything of its course that a condition names: the one walk behind checks, copies and what a change would touch. */
import { joinPath } from '../problem/problem.ts';
import { groupOf, isLeaf, type Condition } from './condition.ts';

export const NAME_KINDS = ['item', 'group', 'mark', 'column', 'section', 'person', 'wording'] as const;
export type NameKind = (typeof NAME_KINDS)[number];

/** One name and its place: `when.all[0].item`. */
export interface NameInCondition {
  readonly kind: NameKind;
  readonly name: string;
  readonly path: string;
}

/** In the tree's order. `base` is prefixed to the paths. */
export function namesOfCondition(condition: Condition, base = ''): NameInCondition[] {
  if (!isLeaf(condition)) {
    const { kind, children } = groupOf(condition);
    return children.flatMap((child, i) => namesOfCondition(child, joinPath(base, kind, i)));
  }
  const found: NameInCondition[] = [];
  const add = (kind: NameKind, name: string | undefined, ...path: (string | number)[]) => {
    if (name !== undefined) found.push({ kind, name, path: joinPath(base, ...path) });
  };
  add('item', condition.item, 'item');
  condition.items?.forEach((id, i) => add('item', id, 'items', i));
  add('group', condition.group, 'group');
  for (const key of ['than', 'value'] as const) {
    const number = condition[key];
    if (typeof number === 'object') add('mark', number.mark, key, 'mark');
  }
  add('column', condition.name, 'name');
  return found;
}

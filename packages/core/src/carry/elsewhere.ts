/** Translates a measure from one course to another: the same question about the item or group that matches. */
import { groupOf, isLeaf, makeGroup, type Condition } from '../conditions/condition.ts';
import { grouped } from '../course/grouped.ts';
import type { Course } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import type { MeasureCall } from '../measures/values/measure.ts';
import { matchItems } from './match.ts';

/** The same measure as the other course has it; null where it has nothing like it. */
export type MeasureTranslation = (call: MeasureCall) => MeasureCall | null;

/** Which item of one course represents which of another: the one it is known again by, else the next of its kind and group. */
export function itemsElsewhere(from: Course, to: Course): ReadonlyMap<string, string> {
  const pairs = new Map<string, string>();
  for (const { from: id, to: match } of matchItems(from.items, to.items)) if (match !== null) pairs.set(id, match);
  const taken = new Set(pairs.values());
  const kindAndGroup = (i: Item) => `${i.kind} ${i.group?.toLowerCase() ?? ''}`;
  const left = grouped(
    to.items.filter((i) => !taken.has(i.id)),
    kindAndGroup,
  );
  for (const item of from.items) {
    if (pairs.has(item.id)) continue;
    const next = left.get(kindAndGroup(item))?.shift();
    if (next) pairs.set(item.id, next.id);
  }
  return pairs;
}

export function elsewhere(from: Course, to: Course): MeasureTranslation {
  const items = itemsElsewhere(from, to);
  const groups = new Map(
    to.items.flatMap((i) => (i.group === null ? [] : [[i.group.toLowerCase(), i.group] as const])),
  );
  return (call) => {
    const { item, items: several, group } = call;
    const there = item === undefined ? undefined : items.get(item);
    const all = several?.flatMap((i) => items.get(i) ?? []);
    const same = group === undefined ? undefined : groups.get(group.toLowerCase());
    if ((item !== undefined && there === undefined) || (group !== undefined && same === undefined)) return null;
    if (several !== undefined && all!.length < several.length) return null;
    return {
      ...call,
      ...(there === undefined ? {} : { item: there }),
      ...(all === undefined ? {} : { items: all }),
      ...(same === undefined ? {} : { group: same }),
    };
  };
}

/** A condition in the other course's terms; null where it has nothing like a part of it. */
export function conditionElsewhere(condition: Condition, to: MeasureTranslation): Condition | null {
  if (isLeaf(condition)) {
    const call = to(condition);
    return call && { ...condition, ...call };
  }
  const { kind, children } = groupOf(condition);
  const there = children.map((child) => conditionElsewhere(child, to));
  return there.some((c) => c === null) ? null : makeGroup(kind, there as Condition[]);
}

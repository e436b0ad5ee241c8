/** Which item of one course is which of another (engine K3). */
import { grouped } from '../course/grouped.ts';
import type { Item, ItemKind } from '../course/item.ts';

/** As much of an item as it is known again by. */
export type ItemIdentity = Pick<Item, 'id' | 'title' | 'kind'>;

/** `told`: somebody said so. `alike`: the titles are, and nobody has said yes yet. */
export type MatchHow = 'told' | 'id' | 'title' | 'alike' | 'none';

export interface ItemMatch {
  readonly from: string;
  /** Null: it has no match. */
  readonly to: string | null;
  readonly how: MatchHow;
}

/** Ids of the source by ids of the target; null: it has none, whatever it looks like. */
export type ConfirmedMatches = Readonly<Record<string, string | null>>;

/** What cannot be as it was told. `name` is the item's id in the course that `in` says. */
export interface ConfirmedMatchProblem {
  readonly code: 'unknown' | 'kinds' | 'twice';
  /** The source's item that was told of. */
  readonly from: string;
  readonly in: 'source' | 'target';
  readonly name: string;
}

/** What is wrong with what was told: ids that are not there, items of two kinds, one target for two. */
export function matchProblems(
  source: readonly ItemIdentity[],
  target: readonly ItemIdentity[],
  told: ConfirmedMatches,
): ConfirmedMatchProblem[] {
  const ofSource = new Map(source.map((i) => [i.id, i]));
  const ofTarget = new Map(target.map((i) => [i.id, i]));
  const taken = new Set<string>();
  return Object.entries(told).flatMap(([from, to]): ConfirmedMatchProblem[] => {
    const item = ofSource.get(from);
    if (!item) return [{ code: 'unknown', from, in: 'source', name: from }];
    if (to === null) return [];
    const match = ofTarget.get(to);
    if (!match) return [{ code: 'unknown', from, in: 'target', name: to }];
    if (match.kind !== item.kind) return [{ code: 'kinds', from, in: 'target', name: to }];
    if (taken.has(to)) return [{ code: 'twice', from, in: 'target', name: to }];
    taken.add(to);
    return [];
  });
}

/** What was told, without what cannot be so: an item may be gone since somebody said it. */
export function soundTold(
  source: readonly ItemIdentity[],
  target: readonly ItemIdentity[],
  told: ConfirmedMatches,
): ConfirmedMatches {
  const wrong = new Set(matchProblems(source, target, told).map((p) => p.from));
  return Object.fromEntries(Object.entries(told).filter(([from]) => !wrong.has(from)));
}

export function matchProblemWords({ code, in: course, name }: ConfirmedMatchProblem): string {
  if (code === 'unknown') return `There is no item “${name}” in the ${course}`;
  if (code === 'kinds') return `“${name}” is of another kind than the item it is matched with`;
  return `“${name}” is matched with two items`;
}

/**
 * A line for each item of the source, in its order. In passes over both courses, within one kind; what is matched leaves both lists.
 * `told` is taken as it is: `matchProblems` lists its problems.
 */
export function matchItems(
  source: readonly ItemIdentity[],
  target: readonly ItemIdentity[],
  told: ConfirmedMatches = {},
): ItemMatch[] {
  const lines = new Map<string, ItemMatch>();
  const free = new Set(target.map((i) => i.id));
  const put = (from: string, to: string | null, how: MatchHow) => {
    lines.set(from, { from, to, how });
    if (to !== null) free.delete(to);
  };
  for (const { id } of source) if (Object.hasOwn(told, id)) put(id, told[id]!, 'told');

  const open = () => source.filter((i) => !lines.has(i.id));
  const left = () => target.filter((i) => free.has(i.id));
  const kindOf = new Map<string, ItemKind>(target.map((i) => [i.id, i.kind]));
  for (const { id, kind } of open()) if (free.has(id) && kindOf.get(id) === kind) put(id, id, 'id');

  const byTitle = grouped(left(), (i) => `${i.kind} ${plainTitle(i.title)}`);
  for (const item of open()) {
    const next = byTitle.get(`${item.kind} ${plainTitle(item.title)}`)?.shift();
    if (next) put(item.id, next.id, 'title');
  }

  for (const [from, to] of onlyPairs(open(), left())) put(from, to, 'alike');
  return source.map((i) => lines.get(i.id) ?? { from: i.id, to: null, how: 'none' });
}

/** Pairs that are alike, where each has nobody else that it is alike to. */
function onlyPairs(source: readonly ItemIdentity[], target: readonly ItemIdentity[]): [string, string][] {
  const marks = new Map([...source, ...target].map((i) => [i, titleMarks(i.title)]));
  const byNumber = grouped(target, (i) => `${i.kind} ${marks.get(i)!.number}`);
  const partners = new Map<string, string[]>();
  const suitors = new Map<string, number>();
  for (const item of source) {
    const own = marks.get(item)!;
    const alike = (byNumber.get(`${item.kind} ${own.number}`) ?? []).filter((t) => shareWords(own, marks.get(t)!));
    partners.set(
      item.id,
      alike.map((t) => t.id),
    );
    for (const t of alike) suitors.set(t.id, (suitors.get(t.id) ?? 0) + 1);
  }
  return [...partners].flatMap(([from, to]): [string, string][] =>
    to.length === 1 && suitors.get(to[0]!) === 1 ? [[from, to[0]!]] : [],
  );
}

interface TitleMarks {
  readonly words: ReadonlySet<string>;
  /** The last number, without its leading zeros; empty if absent. */
  readonly number: string;
}

function titleMarks(title: string): TitleMarks {
  const plain = title.normalize('NFC').toLowerCase();
  const last = plain.match(/\d+/g)?.at(-1);
  return {
    words: new Set(plain.match(/[\p{L}\p{M}]+/gu) ?? []),
    number: last === undefined ? '' : last.replace(/^0+(?=\d)/, ''),
  };
}

/** More than half of the words of each stand in the other. */
function shareWords(a: TitleMarks, b: TitleMarks): boolean {
  let both = 0;
  for (const word of a.words) if (b.words.has(word)) both++;
  return both * 2 > a.words.size && both * 2 > b.words.size;
}

const plainTitle = (title: string): string =>
  title
    .normalize('NFC')
    .toLowerCase()
    .replace(/[\p{P}\p{Z}\s]+/gu, '');

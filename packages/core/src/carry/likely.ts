/** Proposes matches for items that have none. A person confirms them; they are no part of the matching itself (engine K3). */
import type { ItemMatch, ItemIdentity } from './match.ts';

/** Words of four letters or more that many titles share: common practice, no source. */
const COMMON: ReadonlySet<string> = new Set(
  (
    'with your where what week part unit chapter module quiz test exam laboratory essay paper assignment homework ' +
    'discussion forum practice page session class reading project problem'
  ).split(' '),
);
/** Letters by which two words are one: “Tide” and “Tides”, “stand” and “standing”. */
const STEM = 4;

const stemsOf = (title: string): ReadonlySet<string> =>
  new Set(
    (
      title
        .normalize('NFC')
        .toLowerCase()
        .match(/[\p{L}\p{M}]+/gu) ?? []
    )
      .filter((word) => word.length >= STEM && !COMMON.has(word))
      .map((word) => word.slice(0, STEM)),
  );

/** For each unmatched source item, the unmatched target item of its kind that shares the most words, if it is the only one. */
export function likelyMatches(
  source: readonly ItemIdentity[],
  target: readonly ItemIdentity[],
  matches: readonly ItemMatch[],
): ReadonlyMap<string, string> {
  const taken = new Set(matches.flatMap((m) => m.to ?? []));
  const open = new Set(matches.filter((m) => m.to === null && m.how === 'none').map((m) => m.from));
  const free = target.filter((i) => !taken.has(i.id)).map((item) => ({ item, stems: stemsOf(item.title) }));
  const likely = new Map<string, string>();
  for (const one of source) {
    if (!open.has(one.id)) continue;
    const stems = stemsOf(one.title);
    const shared = free
      .filter(({ item }) => item.kind === one.kind)
      .map(({ item, stems: theirs }) => ({ item, count: [...stems].filter((s) => theirs.has(s)).length }))
      .filter(({ count }) => count > 0)
      .sort((a, b) => b.count - a.count);
    const [best, next] = shared;
    if (best && best.count > (next?.count ?? 0)) likely.set(one.id, best.item.id);
  }
  return likely;
}

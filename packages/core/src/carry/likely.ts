/** Items without a match, and what each may be here: proposed to a person, and never matched by itself (engine K3 knows who is). */
import type { ItemMatch } from './match.ts';
import type { Known } from './match.ts';

/** Words that titles share without being about one thing: common practice, no source. */
const COMMON: ReadonlySet<string> = new Set([
  ...[
    'the',
    'and',
    'for',
    'with',
    'your',
    'you',
    'our',
    'who',
    'how',
    'where',
    'what',
    'week',
    'part',
    'unit',
    'chapter',
    'module',
  ],
  ...['quiz', 'test', 'exam', 'lab', 'laboratory', 'essay', 'paper', 'assignment', 'homework', 'discussion', 'forum'],
  ...['practice', 'page', 'session', 'class', 'reading', 'project', 'problem', 'set'],
]);
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

/** By the source’s item: the one free item of its kind whose title shares the most words with it, where that is one alone. */
export function likelyMatches(
  source: readonly Known[],
  target: readonly Known[],
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

/**
 * For lists that are searched by typing: every typed word must occur in what is known of an entry, and one that begins a word
 * of its title counts most, more so a title that is just what was typed. `keywords`: the title first.
 */
export function wordFilter(_value: string, search: string, keywords: readonly string[] = []): number {
  const wanted = search.toLowerCase().split(/\s+/).filter(Boolean);
  const [title = '', ...rest] = keywords.map((k) => k.toLowerCase());
  const others = rest.join(' ');
  if (!wanted.every((w) => title.includes(w) || others.includes(w))) return 0;
  if (title === wanted.join(' ')) return 1;
  return wanted.every((w) => title.split(/\W+/).some((t) => t.startsWith(w))) ? 0.9 : 0.5;
}

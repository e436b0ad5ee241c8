/** What in a text belongs to the old term (engine K7): each find with its sentence, and the chip that says it for any term. */
import type { Course } from '../course/course.ts';
import { dateOf } from '../time/calendar.ts';
import { dateWithin, monthOf, MONTHS } from '../time/typedDate.ts';
import { itemDueField } from '../wording/fields.ts';
import { LIQUID_TAGS } from '../wording/tags.ts';

export type FindKind = 'title' | 'code' | 'date' | 'weekday' | 'year' | 'season' | 'link';

export interface TextFind {
  readonly kind: FindKind;
  /** Its place in the text, `[from, to)`. */
  readonly from: number;
  readonly to: number;
  /** The sentence around it, cut at the find: what comes before, the find, what comes after. */
  readonly before: string;
  readonly found: string;
  readonly after: string;
  /** The merge field to write in its place, without braces; null where nothing says it. */
  readonly field: string | null;
}

export interface Finding {
  readonly source: Course;
  /** The target's item by the source's: only an item that is there has a chip. */
  readonly items: ReadonlyMap<string, string | null>;
}

interface TextPlaceFound {
  readonly kind: FindKind;
  readonly from: number;
  readonly to: number;
  readonly field: string | null;
}

/** In the text's order; none overlaps another. Chips and tags of the text are passed over. */
export function findsIn(text: string, finding: Finding): TextFind[] {
  const plain = withoutTags(text);
  const taken: TextPlaceFound[] = [];
  const take = (finds: readonly TextPlaceFound[]) => {
    for (const find of finds) if (!taken.some((t) => find.from < t.to && t.from < find.to)) taken.push(find);
  };
  // What says more comes first: a date with its year is one find, and a link holds what is in its address.
  take(links(plain, finding));
  take(names(plain, finding));
  const { dates, times } = moments(plain, finding);
  take(dates);
  take(seasons(plain));
  take(weekdays(plain, [...dates, ...times]));
  take(years(plain, finding));
  return taken.sort((a, b) => a.from - b.from).map((find) => ({ ...find, ...sentenceAround(text, find) }));
}

/** The text with the finds written as their fields, where they have one. */
export function withFields(text: string, finds: readonly TextFind[]): string {
  let out = text;
  for (const { from, to, field } of [...finds].sort((a, b) => b.from - a.from)) {
    if (field !== null) out = `${out.slice(0, from)}{{ ${field} }}${out.slice(to)}`;
  }
  return out;
}

/** As long as before, with nothing to find where a template has its own words. */
const withoutTags = (text: string): string => text.replace(LIQUID_TAGS, (tag) => '\0'.repeat(tag.length));

const escaped = (s: string): string => s.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
const whole = (pattern: string): string => `(?<![\\p{L}\\p{N}])(?:${pattern})(?![\\p{L}\\p{N}])`;

function all(
  text: string,
  pattern: string,
  kind: FindKind,
  fieldOf: (m: RegExpExecArray) => string | null | false,
): TextPlaceFound[] {
  return [...text.matchAll(new RegExp(pattern, 'giu'))].flatMap((m) => {
    const field = fieldOf(m);
    return field === false ? [] : [{ kind, from: m.index, to: m.index + m[0].length, field }];
  });
}

function links(text: string, { source }: Finding): TextPlaceFound[] {
  const addresses = [source.url, ...source.items.map((i) => i.url)].filter((url) => url != null && url !== '');
  // Whole: an address that goes on is another page.
  return [...new Set(addresses)].flatMap((url) =>
    all(text, `${escaped(url!)}/?(?![\\w/?#&=%~-]|\\.\\w)`, 'link', () => null),
  );
}

function names(text: string, { source }: Finding): TextPlaceFound[] {
  const spaced = (name: string) => name.trim().split(/\s+/).map(escaped).join('\\s+');
  return (['title', 'code'] as const).flatMap((kind) =>
    source[kind].trim() === '' ? [] : all(text, whole(spaced(source[kind])), kind, () => `course.${kind}`),
  );
}

const MONTH = `(?:${MONTHS.map((m) => (m.length > 4 ? `${m}|${m.slice(0, 3)}\\.?` : m)).join('|')}|sept\\.?)`;
const DATE_FORMS = [
  /** 2026-09-14 */
  `(?<y>\\d{4})-(?<m>\\d{2})-(?<d>\\d{2})`,
  /** September 14, Sept. 14, September 14, 2026 */
  `(?<m>${MONTH})\\s+(?<d>\\d{1,2})(?:st|nd|rd|th)?(?:,?\\s+(?<y>\\d{4}))?`,
  /** 14 September */
  `(?<d>\\d{1,2})(?:st|nd|rd|th)?\\s+(?:of\\s+)?(?<m>${MONTH})(?:,?\\s+(?<y>\\d{4}))?`,
  /** 9/14 */
  `(?<m>\\d{1,2})/(?<d>\\d{1,2})(?:/(?<y>\\d{4}|\\d{2}))?`,
];
const TIME = `\\d{1,2}:\\d{2}(?:\\s*[ap]\\.?m\\.?)?|\\d{1,2}\\s*[ap]\\.?m\\.?|noon|midnight`;

/** Dates in the source's run, and times of day, which only make a weekday one of the term. */
function moments(text: string, finding: Finding): { dates: TextPlaceFound[]; times: TextPlaceFound[] } {
  const { source, items } = finding;
  const dues = new Map(
    source.items.flatMap((item): [string, string | null][] =>
      item.dueAt === null ? [] : [[dateOf(source.calendar.dayNumber(item.dueAt)), items.get(item.id) ?? null]],
    ),
  );
  const dates = DATE_FORMS.flatMap((form) =>
    all(text, whole(form), 'date', (m) => {
      const date = dateInRun(m.groups!, source);
      if (date === null) return false;
      const due = dues.get(date) ?? null;
      return due === null ? null : itemDueField(due);
    }),
  );
  return { dates, times: all(text, whole(TIME), 'date', () => null) };
}

/** The date of the run that is written there, or null for none. */
function dateInRun(parts: Readonly<Record<string, string | undefined>>, run: Course): string | null {
  const { m, d, y } = parts;
  const month = /^\d/.test(m!) ? Number(m) : monthOf(m!);
  return dateWithin(run, month, Number(d), y === undefined ? undefined : Number(y.length === 2 ? `20${y}` : y));
}

const WEEKDAY = '(?:mon|tues|wednes|thurs|fri|satur|sun)days?';
/** What may stand between a weekday and the date or time that it goes with. */
const BESIDE = /^[\s,(]*(?:the|at|by|on|before|until|from)?[\s,(]*$/i;

/** A weekday belongs to the term only beside a date of it or a time: “on Mondays” does not. */
function weekdays(text: string, moments: readonly TextPlaceFound[]): TextPlaceFound[] {
  return all(text, whole(WEEKDAY), 'weekday', () => null).filter((day) =>
    moments.some((m) =>
      m.from >= day.to ? BESIDE.test(text.slice(day.to, m.from)) : BESIDE.test(text.slice(m.to, day.from)),
    ),
  );
}

const SEASON = '(?:spring|summer|fall|autumn|winter)';

/** Only beside a year, “term” or “semester”: a fall is also what somebody may take. */
const seasons = (text: string): TextPlaceFound[] =>
  all(text, whole(`${SEASON}(?:\\s+of)?\\s+(?:(?:19|20)\\d{2}|term|semester)`), 'season', () => null).concat(
    all(text, whole(`(?:(?:19|20)\\d{2}|term|semester)(?:\\s+of)?\\s+${SEASON}`), 'season', () => null),
  );

function years(text: string, { source }: Finding): TextPlaceFound[] {
  const [first, last] = [source.start, source.end].map((date) => Number(date.slice(0, 4))) as [number, number];
  const ofRun = Array.from({ length: last - first + 1 }, (_, i) => first + i);
  return all(text, whole(ofRun.join('|')), 'year', () => null);
}

/** Characters of a sentence that stand on each side of a find at most. */
const MOST_AROUND = 120;
const ENDS = /[.!?…](?=\s)|\n/g;

function sentenceAround(text: string, { from, to }: TextPlaceFound): Pick<TextFind, 'before' | 'found' | 'after'> {
  let start = 0;
  let end = text.length;
  for (const { index, 0: sign } of text.matchAll(ENDS)) {
    const next = index + sign.length;
    if (next <= from) start = next;
    else if (index >= to) {
      end = next;
      break;
    }
  }
  const before = text.slice(start, from).trimStart();
  const after = text.slice(to, end).trimEnd();
  return {
    before: before.length > MOST_AROUND ? `…${before.slice(-MOST_AROUND)}` : before,
    found: text.slice(from, to),
    after: after.length > MOST_AROUND ? `${after.slice(0, MOST_AROUND)}…` : after,
  };
}

/** What the titles of columns say: points possible, the kind of item, a total, what was done when, who was seen last ([F1], [F3], [F6], [F14]). */
import type { ItemKind } from '../../course/item.ts';
import type { LastSeenKind } from '../../activity/event.ts';
import { readNumber } from './numbers.ts';
import { tidy } from './names.ts';

/** Longer texts are no titles. */
const LONGEST = 200;

const wordsOf = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word !== '');

/** The text without its last brackets and what is in them; null where it ends with none. */
function lastBracket(text: string): { readonly before: string; readonly within: string } | null {
  const close = text.at(-1);
  const open = close === ')' ? '(' : close === ']' ? '[' : null;
  const at = open === null ? -1 : text.lastIndexOf(open);
  return at < 0 ? null : { before: text.slice(0, at).trimEnd(), within: text.slice(at + 1, -1).trim() };
}

const POINT_WORDS = new Set([
  'max',
  'maximum',
  'points',
  'point',
  'pts',
  'pt',
  'marks',
  'mark',
  'possible',
  'out',
  'of',
]);

/** “20”, “20 pts”, “max. 20”: the points that a text says; null for anything else. */
function pointsIn(text: string): number | null {
  if (text.length > 40 || text.includes('%')) return null;
  const words = text.split(/[\s:]+/).filter((w) => w !== '' && !POINT_WORDS.has(w.replace(/\.$/, '').toLowerCase()));
  // “20pts”
  const number = words.length === 1 ? words[0]!.replace(/(?:points?|pts?|marks?)\.?$/i, '') : '';
  const points = /^\d/.test(number) ? readNumber(number, null) : null;
  return typeof points === 'number' && points <= 1e9 ? points : null;
}

export interface TitleParts {
  readonly title: string;
  readonly points: number | null;
}

/** “Quiz 1 (20)”, “Quiz 1 [20 pts]”, “Quiz 1 / 20”: the title and the points possible. */
export function titleParts(header: string): TitleParts {
  const text = withoutJoint(tidy(header.slice(0, 1000)));
  const bracket = lastBracket(text);
  const points = bracket && pointsIn(bracket.within);
  if (bracket && points !== null && bracket.before !== '') return { title: withoutJoint(bracket.before), points };
  const slash = text.lastIndexOf('/');
  const behind = slash > 0 ? pointsIn(text.slice(slash + 1).trim()) : null;
  return behind === null
    ? { title: text, points: null }
    : { title: withoutJoint(text.slice(0, slash).trimEnd()), points: behind };
}

/** Without the comma, colon or dash that joined a title to what followed it ([F23]). */
const withoutJoint = (title: string): string => title.replace(/[\s,;:–—-]{1,20}$/, '') || title;

/** A header without points, as it is compared. */
export const plainTitle = (text: string): string => withoutJoint(tidy(text)).toLowerCase();

/** By the first of these words that is in a title, whole, singular or plural. */
const KIND_WORDS: readonly (readonly [ItemKind, readonly string[]])[] = [
  ['quiz', ['quiz', 'quizzes', 'test', 'exam', 'midterm']],
  ['forum', ['discussion', 'forum', 'post']],
  ['session', ['attendance', 'session', 'meeting', 'class', 'classes', 'lecture']],
  ['page', ['reading', 'page', 'syllabus']],
  ['practice', ['practice', 'drill', 'exercise']],
];
const WORK_WORDS = new Set(
  ['assignment', 'homework', 'hw', 'lab', 'essay', 'paper', 'project', 'report', 'presentation'].flatMap((w) => [
    w,
    `${w}s`,
  ]),
);

/** The kind that the words of a title name; null where none does. */
export function kindByWords(title: string): ItemKind | null {
  const words = new Set(wordsOf(title.slice(0, LONGEST)));
  return KIND_WORDS.find(([, names]) => names.some((n) => words.has(n) || words.has(`${n}s`)))?.[0] ?? null;
}

/** Whether a title is that of an item, by its words: those of a kind, or of work. */
export function soundsLikeItem(title: string): boolean {
  if (title.length > LONGEST) return false;
  const words = wordsOf(title);
  return (
    kindByWords(title) !== null ||
    words.some((w, i) => WORK_WORDS.has(w) || (w === 'problem' && /^sets?$/.test(words[i + 1] ?? '')))
  );
}

const TOTAL_NAMES = ['total', 'final', 'overall', 'average', 'avg', 'mean', 'sum', 'rank'];
const TOTAL_SCORES = ['grade', 'score', 'percent', 'percentage', 'mark'];
const TOTAL_WORDS = new Set([
  ...TOTAL_NAMES,
  ...TOTAL_SCORES,
  ...['course', 'class', 'current', 'running', 'term', 'semester', 'quarter', 'to', 'date', 'points', 'letter'],
  ...['weighted', 'unweighted', 'earned', 'possible'],
]);
const SAYS_TOTAL = new Set([...TOTAL_NAMES, ...TOTAL_SCORES]);

/** Without its brackets and what is in them. */
function withoutBrackets(text: string): string {
  let out = '';
  let depth = 0;
  for (const c of text) {
    if (c === '(' || c === '[') depth++;
    else if ((c === ')' || c === ']') && depth > 0) depth--;
    else if (depth === 0) out += c;
  }
  return out;
}

/** Whether a header is a computed total; `groups` are the names of groups of items. */
export function isTotal(header: string, groups: readonly string[]): boolean {
  if (header.length > LONGEST) return false;
  let words = wordsOf(withoutBrackets(header));
  for (const group of groups) {
    const own = wordsOf(group);
    const at = own.length === 0 ? -1 : words.findIndex((_, i) => own.every((w, n) => words[i + n] === w));
    if (at >= 0 && own.length < words.length) words = [...words.slice(0, at), ...words.slice(at + own.length)];
  }
  return words.length > 0 && words.every((w) => TOTAL_WORDS.has(w)) && words.some((w) => SAYS_TOTAL.has(w));
}

const GRADING = new Set(['graded', 'grading', 'date', 'on', 'at', 'time', 'of', 'last', 'released', 'by']);

/** “Graded on”, “Date of grading”: when something was graded says nothing about students. */
export function isGradingDate(header: string): boolean {
  const words = wordsOf(header.slice(0, LONGEST));
  return words.some((w) => w === 'graded' || w === 'grading') && words.every((w) => GRADING.has(w));
}

const REMARKS = new Set(['comment', 'comments', 'feedback', 'note', 'notes', 'remark', 'remarks']);
/** Comments, feedback, notes. */
export const isRemark = (header: string): boolean => REMARKS.has(wordsOf(header.slice(0, LONGEST)).at(-1) ?? '');

const DONE_WORDS = new Set(['submitted', 'turned', 'in', 'completed', 'done', 'date', 'on', 'at', 'time']);
const SAYS_DONE = new Set(['submitted', 'completed', 'done', 'date', 'time', 'turned']);

/** “Essay 1 submitted on”, “Date completed: Essay 1”: the title of the item that was done; null for other headers. */
export function doneTitle(header: string): string | null {
  if (header.length > LONGEST) return null;
  const tokens = tidy(header).split(' ');
  const word = (token: string | undefined) => (token ?? '').toLowerCase().replace(/[():[\]-]/g, '');
  let [from, to, said] = [0, tokens.length, false];
  const eats = (token: string | undefined) => {
    const w = word(token);
    if (w !== '' && !DONE_WORDS.has(w)) return false;
    said ||= SAYS_DONE.has(w);
    return true;
  };
  while (to > from && eats(tokens[to - 1])) to--;
  while (from < to && eats(tokens[from])) from++;
  if (!said || from === to) return null;
  const title = tokens.slice(from, to).join(' ');
  return title.replace(/[:,-]$/, '').trim();
}

const SEEN = new Set([
  'access',
  'accessed',
  'login',
  'signin',
  'visit',
  'seen',
  'active',
  'activity',
  'online',
  'participation',
]);
const BESIDE_SEEN = new Set(['date', 'time', 'course', 'and', 'in', 'to']);
const SIGN_IN_WORDS = new Set(['login', 'signin', 'online']);

/** What “last access”, “Last sign-in (date)” and the like tell of: a last visit, or a last sign-in; null for other headers. */
export function lastSeenKind(header: string): LastSeenKind | null {
  const text = header.slice(0, LONGEST).toLowerCase();
  const words = wordsOf(text.replace(/sign[\s-]?in\b/, 'signin').replace(/log[\s-]in\b/, 'login'));
  if (!words.includes('last')) return null;
  const seen = words.find((w) => SEEN.has(w));
  if (seen === undefined || words.some((w) => w !== 'last' && w !== seen && !BESIDE_SEEN.has(w))) return null;
  return SIGN_IN_WORDS.has(seen) && !words.includes('course') ? 'lastSignIn' : 'lastVisit';
}

/** Finds texts that contradict the rule that sends them: another length of absence, another number, another item, or no item. */
import { leavesOf, type Leaf } from '../conditions/condition.ts';
import { thresholdOf } from '../conditions/compare.ts';
import type { Course } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import type { MeasureName } from '../measures/values/measure.ts';
import { absenceAsked } from '../rounds/advice/noticeWords.ts';
import type { Rule } from '../rules/rule.ts';
import { numberWords, plural } from '../time/words.ts';
import type { Check, CheckContext, Words } from './check.ts';
import { LIQUID_TAGS } from './tags.ts';

/** Finds at most one misfit of each kind: the first rule that the text does not fit. */
export function misfits(words: Words, { course, rules }: Pick<CheckContext, 'course' | 'rules'>): Check[] {
  if (words.purpose === 'toMyself') return [];
  return MISFITS.flatMap((find) => {
    for (const rule of rules) {
      const found = find(words, rule, course);
      if (found) return [found];
    }
    return [];
  });
}

type Finder = (words: Words, rule: Rule, course: Course) => Check | null;
const MISFITS: readonly Finder[] = [absence, inARow, percentages, itsItem];

const PATHS = ['subject', 'text'] as const;
const NUMBERS = [
  'zero',
  'one',
  'two',
  'three',
  'four',
  'five',
  'six',
  'seven',
  'eight',
  'nine',
  'ten',
  'eleven',
  'twelve',
];
const COUNT = `a|an|${NUMBERS.slice(1).join('|')}|fourteen|\\d{1,3}`;

function countOf(word: string): number {
  const plain = word.toLowerCase();
  if (plain === 'a' || plain === 'an') return 1;
  if (plain === 'fourteen') return 14;
  const named = NUMBERS.indexOf(plain);
  return named < 0 ? Number(plain) : named;
}

/** The sentences of a text. Fields and tags are replaced, so that no phrase is read across them. */
const sentencesOf = (text: string): string[] => text.replace(LIQUID_TAGS, '…').split(/[.!?\n]+/);

const AWAY =
  /\b(away|absent|absence|gone|quiet|silence|without (a )?(visit|sign)|not (been|visited|signed in|seen)|since (you|your last))\b/i;
const LENGTH = new RegExp(`\\b(${COUNT})\\s+(day|week)s?\\b`, 'i');

/** “A week away” under a rule that looks for ten days. */
function absence(words: Words, rule: Rule, course: Course): Check | null {
  const asked = absenceAsked(rule.when, course);
  // With a choice, or a gap that is over, there is no one length that the words could be held to.
  if (!asked && leavesOf(rule.when).some((leaf) => CATALOGUE[leaf.measure].family === 'away')) return null;
  const own = rule.steps.filter((s) => words.id === undefined || s.wording === words.id);
  const steps = own.length > 0 ? own : rule.steps;
  const fits = new Set(asked ? steps.map((s) => asked.days + s.after.days) : []);
  for (const path of PATHS) {
    for (const sentence of sentencesOf(words[path])) {
      const [quote, count, unit] = (AWAY.test(sentence) && LENGTH.exec(sentence)) || [];
      if (quote === undefined) continue;
      if (!asked) return misfit(path, quote, `“${rule.name}” does not look for absence`);
      const days = countOf(count!) * (unit!.toLowerCase() === 'week' ? 7 : 1);
      if (fits.has(days)) continue;
      const field = `{{ ${CATALOGUE[asked.leaf.measure].mergeField} | default: "some days" }}`;
      return {
        ...misfit(path, quote, `“${rule.name}” finds students after ${plural([...fits][0]!, 'day')}`),
        mend: {
          label: 'Say how long it really was',
          words: { subject: words.subject, text: words.text, [path]: words[path].replace(quote, field) },
        },
      };
    }
  }
  return null;
}

const ROW = new RegExp(`\\b(${COUNT})\\b(?=[^.!?\\n]{0,40}\\bin a row\\b)`, 'i');

/** “Five discussions in a row” under a rule that looks for three. */
function inARow(words: Words, rule: Rule, course: Course): Check | null {
  const asked = leavesOf(rule.when).find((l) => l.measure === 'streak');
  const value = asked && thresholdOf(asked, course.marks);
  if (typeof value !== 'number') return null;
  for (const path of PATHS) {
    const quote = sentencesOf(words[path]).flatMap((s) => ROW.exec(s)?.[1] ?? [])[0];
    if (quote === undefined || countOf(quote) === value) continue;
    return misfit(path, quote, `“${rule.name}” looks for ${numberWords(value)} in a row`);
  }
  return null;
}

const COMPARED =
  /\b(?:under|below|less than|over|above|more than|at least|at most)\s+(\d{1,3}(?:\.\d+)?)\s?(?:%|percent\b)/i;

/** “Below 50%” under a rule that looks for 60%. */
function percentages(words: Words, rule: Rule, course: Course): Check | null {
  const values = leavesOf(rule.when).flatMap((leaf) => {
    if (typeof leaf.than === 'number') return [leaf.than];
    const value = CATALOGUE[leaf.measure].unit === 'percent' ? thresholdOf(leaf, course.marks) : null;
    return typeof value === 'number' ? [value] : [];
  });
  if (values.length === 0) return null;
  for (const path of PATHS) {
    const [quote, said] = COMPARED.exec(sentencesOf(words[path]).join('\n')) ?? [];
    if (quote === undefined || values.includes(Number(said))) continue;
    return misfit(path, quote, `“${rule.name}” looks for ${numberWords(values[0]!)}%`);
  }
  return null;
}

/** Of what a student did or did not do with one item. */
const OF_AN_ITEM: ReadonlySet<MeasureName> = new Set([
  'completed',
  'submitted',
  'opens',
  'score',
  'points',
  'criterion',
  'daysAwaitingGrade',
]);

/** A rule about one item, and words about another one or about none. */
function itsItem(words: Words, rule: Rule, course: Course): Check | null {
  const items = [...new Set(leavesOf(rule.when).flatMap((leaf) => itemOf(leaf, course)))];
  const [own] = items;
  if (!own || items.some((item) => isNamed(item, words))) return null;
  const other = course.items.find((item) => item.kind === own.kind && !items.includes(item) && isTyped(item, words));
  if (!other) return misfit('text', '', `“${rule.name}” is about ${own.title}, and this text does not name it`);
  const path = words.text.toLowerCase().includes(other.title.toLowerCase()) ? 'text' : 'subject';
  return misfit(path, other.title, `“${rule.name}” is about ${own.title}`);
}

function itemOf(leaf: Leaf, course: Course): Item[] {
  if (!OF_AN_ITEM.has(leaf.measure) || leaf.item === undefined) return [];
  const item = course.items[course.itemIndex.get(leaf.item) ?? -1];
  return item ? [item] : [];
}

const isTyped = (item: Item, { subject, text }: Words): boolean =>
  `${subject}\n${text}`.toLowerCase().includes(item.title.toLowerCase());

const isNamed = (item: Item, words: Words): boolean => {
  const all = `${words.subject}\n${words.text}`;
  // Only what has a due date is in these lists.
  if (item.dueAt !== null && /\bstudent\.(missing|due_soon)_(items|list)/.test(all)) return true;
  return /\bitem\.\w/.test(all) || all.includes(`["${item.id}"]`) || isTyped(item, words);
};

/** `why` goes on from what the words say. */
const misfit = (path: Check['path'], quote: string, why: string): Check => ({
  code: 'misfit',
  path,
  quote,
  message: quote === '' ? why : `“${quote}” does not fit: ${why}`,
  mend: null,
});

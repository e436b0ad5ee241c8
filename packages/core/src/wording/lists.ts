/** The lists that a wording may carry, a line an entry: missing work, recent scores, weak topics with what helps with them. */
import { counts, dueFor, type Course } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import { severalItems, type MeasureCall } from '../measures/values/measure.ts';
import type { Facts } from '../measures/facts/facts.ts';
import { valueWords } from '../conditions/sentence.ts';
import { valueAt } from '../measures/values/timeline.ts';
import type { Instant } from '../time/instant.ts';
import { dayWords, timeWords } from '../time/words.ts';
import { linkMark } from './markup.ts';

/** The students and the time that a list is about. */
export interface ListContext {
  readonly facts: Facts;
  /** Roster index of the student. */
  readonly person: number;
  readonly at: Instant;
}

/** A message is no gradebook: what is more than this is counted. */
export const MOST_LINES = 8;
/** How many of the latest scores are told. */
const RECENT_SCORES = 5;
/** Common practice, no source: the mark under which a topic is practised again, where a course has none of its own. */
const MASTERY = 80;

const linesOf = (lines: readonly string[]): string | null => {
  if (lines.length === 0) return null;
  const shown = lines.slice(0, MOST_LINES).map((l) => `- ${l}`);
  const more = lines.length - shown.length;
  return [...shown, ...(more > 0 ? [`- and ${more} more`] : [])].join('\n');
};

const linked = (item: Item): string => linkMark(item.title, item.url);

/** What is missing and can still be handed in, the oldest first, with its due date; null where nothing is. */
export function missingList(context: ListContext, call: MeasureCall): string | null {
  const { course } = context.facts;
  const person = course.people[context.person]!;
  const missing = severalItems(course, call)
    .map((i) => ({ item: course.items[i]!, due: dueFor(course.items[i]!, person) }))
    .filter(
      ({ item, due }) =>
        item.kind !== 'session' &&
        counts(item, person) &&
        due !== null &&
        due <= context.at &&
        valueAt(context.facts.timeline(context.person, { measure: 'submitted', item: item.id }), context.at) === false,
    )
    .sort((a, b) => a.due! - b.due!);
  return linesOf(missing.map(({ item, due }) => `${linked(item)}, due ${dayWords(due!, course.timeZone)}`));
}

/** What falls due soon and is not done, the first due first. */
export function dueSoonOf(context: ListContext, call: MeasureCall): { readonly item: Item; readonly due: Instant }[] {
  const { course } = context.facts;
  const person = course.people[context.person]!;
  const fact = context.facts.fact(context.person, call, context.at);
  const titles = new Set(fact.kind === 'items' ? fact.items.map((i) => i.title) : []);
  return severalItems(course, call)
    .map((i) => ({ item: course.items[i]!, due: dueFor(course.items[i]!, person) }))
    .filter((i): i is { item: Item; due: Instant } => i.due !== null && i.due > context.at && titles.has(i.item.title))
    .sort((a, b) => a.due - b.due);
}

/** The same a line each, with its due date; null where nothing is. */
export const dueSoonList = (context: ListContext, call: MeasureCall): string | null =>
  linesOf(
    dueSoonOf(context, call).map(
      ({ item, due }) =>
        `${linked(item)}, due ${dayWords(due, context.facts.course.timeZone)}, ${timeWords(due, context.facts.course.timeZone)}`,
    ),
  );

interface ScoredItem {
  readonly item: Item;
  readonly points: number;
  readonly of: number | null;
  readonly at: Instant;
}

function scoresOf(context: ListContext): ScoredItem[] {
  return context.facts.course.items.flatMap((item): ScoredItem[] => {
    const fact = context.facts.fact(context.person, { measure: 'score', item: item.id }, context.at);
    return fact.kind === 'score' ? [{ item, points: fact.points, of: fact.of, at: fact.at }] : [];
  });
}

/** The latest scores, the newest first; null where nothing is graded. */
export function scoreList(context: ListContext): string | null {
  const scores = scoresOf(context)
    .sort((a, b) => b.at - a.at)
    .slice(0, RECENT_SCORES);
  return linesOf(
    scores.map(({ item, points, of: possible }) =>
      possible
        ? `${linked(item)}: ${valueWords((100 * points) / possible, 'percent')}`
        : `${linked(item)}: ${valueWords(points, 'points')}`,
    ),
  );
}

/**
 * Topics in which the student's points so far are under the mastery mark, the weakest first, each with the course's pages
 * and practice sets on it that are released; null if absent.
 */
export function topicList(context: ListContext): string | null {
  const { course } = context.facts;
  const scores = scoresOf(context).filter((s) => s.of !== null && s.of > 0);
  const topics = [...new Set(scores.flatMap((s) => s.item.topics))].flatMap((topic) => {
    const about = scores.filter((s) => s.item.topics.includes(topic));
    const share = (100 * sum(about.map((s) => s.points))) / sum(about.map((s) => s.of!));
    return share < (course.marks['mastery'] ?? MASTERY) ? [{ topic, share }] : [];
  });
  topics.sort((a, b) => a.share - b.share);
  return linesOf(
    topics.map(({ topic }) => {
      const help = resourcesFor(course, topic, context.at);
      return help.length === 0 ? topic : `${topic}: ${help.map(linked).join(', ')}`;
    }),
  );
}

/** Pages and practice sets of the course on a topic that students may open. */
const resourcesFor = (course: Course, topic: string, at: Instant): Item[] =>
  course.items.filter(
    (i) =>
      (i.kind === 'page' || i.kind === 'practice') &&
      i.topics.includes(topic) &&
      (i.opensAt === null || i.opensAt <= at),
  );

const sum = (numbers: readonly number[]): number => numbers.reduce((a, b) => a + b, 0);

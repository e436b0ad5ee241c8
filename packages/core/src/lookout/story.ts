/** What one student did and got in a course so far, for their page: acts, grades beside the class, and when they were last seen. */
import { kindMask, VISIT_EVIDENCE, type EventKind } from '../activity/event.ts';
import { itemOfCode, kindBitOf, kindOfCode } from '../activity/actCode.ts';
import type { HistoryFacts } from '../measures/facts/facts.ts';
import { percent } from '../measures/values/value.ts';
import { Gradebook, type GradebookCell } from './gradebook.ts';
import type { Instant } from '../time/instant.ts';

export interface StoryAct {
  readonly kind: EventKind;
  /** The id of an item of the course; null for none, or one that is gone. */
  readonly item: string | null;
  readonly at: Instant;
}

export interface StoryGrade {
  readonly item: string;
  readonly at: Instant;
  readonly points: number;
  /** Percent; null where the item has no points. */
  readonly score: number | null;
  /** Mean of the latest scores of active students who have one; null where nobody has. */
  readonly classMean: number | null;
}

export interface LastSeen {
  readonly visit: Instant | null;
  /** The item they opened last, of whatever kind. */
  readonly page: { readonly item: string; readonly at: Instant } | null;
  readonly post: { readonly item: string; readonly at: Instant } | null;
}

/** An item that is worth points or due, as it came out for the student. */
export interface StoryItem extends GradebookCell {
  readonly item: string;
}

export interface Story {
  /** Oldest first. */
  readonly acts: readonly StoryAct[];
  /** The latest of each item, criteria aside, in the order in which they were given. */
  readonly grades: readonly StoryGrade[];
  readonly last: LastSeen;
  /** In the course’s order; none of somebody who is no active student. */
  readonly items: readonly StoryItem[];
}

const OPEN = kindMask('open');
const POST = kindMask('post');

/** `person` is a place in the roster. What is known as of `at` (engine H3). */
export function storyOf(facts: HistoryFacts, person: number, at: Instant): Story {
  const { course, history } = facts;
  const { people, items } = course;
  const log = history.logOf(people[person]!.id);
  const keys = history.itemKeys.all;
  const itemOf = (key: number): string | null => {
    const id = keys[key];
    return id !== undefined && course.itemIndex.has(id) ? id : null;
  };
  const acts: StoryAct[] = [];
  const last: { visit: Instant | null; page: LastSeen['page']; post: LastSeen['post'] } = {
    visit: null,
    page: null,
    post: null,
  };
  for (let i = 0; i < log.length && log.times[i]! <= at; i++) {
    const code = log.codes[i]!;
    const key = itemOfCode(code);
    const act = { kind: kindOfCode(code), item: key < 0 ? null : itemOf(key), at: log.times[i]! };
    acts.push(act);
    const bit = kindBitOf(code);
    if ((bit & VISIT_EVIDENCE) !== 0) last.visit = act.at;
    if (act.item === null) continue;
    if ((bit & OPEN) !== 0) last.page = { item: act.item, at: act.at };
    if ((bit & POST) !== 0) last.post = { item: act.item, at: act.at };
  }
  const means = classMeans(facts, at);
  const latest = new Map<string, StoryGrade>();
  for (const g of log.grades) {
    const item = itemOf(g.item);
    if (g.at > at || g.criterion !== null || item === null) continue;
    const { points } = items[course.itemIndex.get(item)!]!;
    latest.delete(item);
    latest.set(item, {
      item,
      at: g.at,
      points: g.points,
      score: points ? percent(g.points, points) : null,
      classMean: means.get(item) ?? null,
    });
  }
  return { acts, grades: [...latest.values()], last, items: itemsOf(facts, person, at) };
}

function itemsOf(facts: HistoryFacts, person: number, at: Instant): StoryItem[] {
  const { id } = facts.course.people[person]!;
  const subject = facts.students().find((s) => s.person.id === id);
  if (!subject) return [];
  const book = Gradebook.of(facts.course, [subject], at);
  return book.about.items.map((item, column) => ({ item, ...book.cell(0, column) }));
}

/** The mean of each item's latest scores over the active students who have one. */
function classMeans(facts: HistoryFacts, at: Instant): ReadonlyMap<string, number> {
  const { items } = facts.course;
  const sums = new Float64Array(items.length);
  const counts = new Int32Array(items.length);
  const latest = new Float64Array(items.length);
  for (const { log } of facts.students()) {
    latest.fill(NaN);
    for (const g of log.grades) if (g.at <= at && g.criterion === null) latest[g.item] = g.points;
    for (let i = 0; i < latest.length; i++) {
      const { points } = items[i]!;
      if (Number.isNaN(latest[i]!) || !points) continue;
      sums[i]! += percent(latest[i]!, points);
      counts[i]!++;
    }
  }
  return new Map(items.flatMap((item, i) => (counts[i] === 0 ? [] : [[item.id, sums[i]! / counts[i]!]])));
}

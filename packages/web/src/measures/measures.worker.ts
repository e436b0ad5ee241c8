// The one worker of a page: it keeps the measures of the course by their call, and computes on them what the places show.
import '../zodSetup.ts';
import { expose } from 'comlink';
import {
  callKey,
  courseProblems,
  leavesOf,
  makeCourse,
  parseRule,
  reach,
  ruleDocument,
  sendableReach,
  SentFacts,
  unpackColumn,
  type CourseAnswer,
  type Instant,
  type LoggedFacts,
  type MeasureColumn,
  type Problem,
  type Rule,
  type SentReach,
} from '@zest-bell/core';

export type SentResult =
  { readonly ok: true; readonly reach: SentReach } | { readonly ok: false; readonly problems: readonly Problem[] };

/** Columns that are kept: the newest of as many calls as a composer and a wide table ask for. */
const MOST = 200;

/** A course at one version, at the moment that a place speaks of. */
interface Kept {
  readonly key: string;
  readonly course: ReturnType<typeof makeCourse>;
  readonly columns: Map<string, MeasureColumn>;
  facts: SentFacts | null;
}
let kept: Kept | null = null;

const worker = {
  /** Everything asked from now on is about this course at this moment; columns of another are let go. */
  about(key: string, answer: CourseAnswer): void {
    if (kept?.key === key) return;
    kept = { key, course: makeCourse(answer), columns: new Map(), facts: null };
  },

  /** Takes in a measure as it was sent. */
  take(key: string, bytes: ArrayBuffer): void {
    const column = unpackColumn(new Uint8Array(bytes));
    if (!column || kept?.key !== key) return;
    const call = callKey(column.call);
    kept.columns.delete(call);
    kept.columns.set(call, column);
    for (const oldest of kept.columns.keys()) {
      if (kept.columns.size <= MOST) break;
      kept.columns.delete(oldest);
    }
    kept.facts = null;
  },

  /**
   * The reach of a draft, with the evidence of the first `most`; what is wrong with the draft instead, if anything is. Null
   * while a measure of it is not here, or the page has moved on.
   */
  reach(key: string, draft: Rule, at: Instant, logged: LoggedFacts, most: number): SentResult | null {
    if (kept?.key !== key) return null;
    const parsed = parseRule(ruleDocument(draft, kept.course.timeZone));
    if (!parsed.ok) return { ok: false, problems: parsed.problems };
    const problems = courseProblems(parsed.value, kept.course);
    if (problems.length > 0) return { ok: false, problems };
    const facts = (kept.facts ??= new SentFacts(kept.course, kept.columns.values()));
    if (!facts.has(leavesOf(parsed.value.when))) return null;
    return { ok: true, reach: sendableReach(reach(parsed.value, facts, logged, at), most) };
  },
};

export type MeasuresWorker = typeof worker;
expose(worker);

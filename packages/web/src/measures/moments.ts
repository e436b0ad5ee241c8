/** The measures of a course at its latest moments, and what the places show of them. They live in the page's one worker. */
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

/**
 * Moments that are kept: the place's own, and those before it whose answers are still on their way. An answer about an
 * earlier moment that comes late must not take the place of the present one.
 */
const MOMENTS = 3;

/** A course at one version, at the moment that a place speaks of. */
interface Kept {
  readonly course: ReturnType<typeof makeCourse>;
  readonly columns: Map<string, MeasureColumn>;
  facts: SentFacts | null;
}

export class Moments {
  /** By their keys, oldest first. */
  private readonly moments = new Map<string, Kept>();

  /** Makes room for what will be asked about this course at this moment; the oldest moment is let go. */
  about(key: string, answer: CourseAnswer): void {
    if (this.moments.has(key)) return;
    this.moments.set(key, { course: makeCourse(answer), columns: new Map(), facts: null });
    if (this.moments.size > MOMENTS) this.moments.delete(this.moments.keys().next().value!);
  }

  /** Takes in a measure as it was sent. */
  take(key: string, bytes: ArrayBuffer): void {
    const kept = this.moments.get(key);
    const column = unpackColumn(new Uint8Array(bytes));
    if (!column || !kept) return;
    const call = callKey(column.call);
    kept.columns.delete(call);
    kept.columns.set(call, column);
    for (const oldest of kept.columns.keys()) {
      if (kept.columns.size <= MOST) break;
      kept.columns.delete(oldest);
    }
    kept.facts = null;
  }

  /**
   * The reach of a draft, with the evidence of the first `most`; what is wrong with the draft instead, if anything is. Null
   * while a measure of it is not here, or the page has moved on.
   */
  reach(key: string, draft: Rule, at: Instant, logged: LoggedFacts, most: number): SentResult | null {
    const kept = this.moments.get(key);
    if (!kept) return null;
    const parsed = parseRule(ruleDocument(draft, kept.course.timeZone));
    if (!parsed.ok) return { ok: false, problems: parsed.problems };
    const problems = courseProblems(parsed.value, kept.course);
    if (problems.length > 0) return { ok: false, problems };
    const facts = (kept.facts ??= new SentFacts(kept.course, kept.columns.values()));
    if (!facts.has(leavesOf(parsed.value.when))) return null;
    return { ok: true, reach: sendableReach(reach(parsed.value, facts, logged, at), most) };
  }
}

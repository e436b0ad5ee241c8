// The live reach runs here, by the core's own `decide`, so that dragging never waits for it.
import '../../zodSetup.ts';
import { expose } from 'comlink';
import {
  makeCourse,
  parseRule,
  courseProblems,
  reach,
  ruleDocument,
  sendableReach,
  SentFacts,
  type CourseAnswer,
  type Instant,
  type Problem,
  type ReachFacts,
  type SentReach,
  type Rule,
} from '@zest-bell/core';

export type SentResult =
  { readonly ok: true; readonly reach: SentReach } | { readonly ok: false; readonly problems: readonly Problem[] };

let facts: SentFacts | null = null;
let sent: ReachFacts | null = null;

const worker = {
  load(answer: CourseAnswer, reachFacts: ReachFacts): void {
    facts = new SentFacts(makeCourse(answer), reachFacts);
    sent = reachFacts;
  },
  /** The reach of a draft at an instant, with the evidence of the first `most`; what is wrong with the draft instead, if anything is. */
  reach(draft: Rule, at: Instant, most: number): SentResult | null {
    if (!facts || !sent) return null;
    const parsed = parseRule(ruleDocument(draft, facts.course.timeZone));
    if (!parsed.ok) return { ok: false, problems: parsed.problems };
    const problems = courseProblems(parsed.value, facts.course);
    if (problems.length > 0) return { ok: false, problems };
    return { ok: true, reach: sendableReach(reach(parsed.value, facts, sent, at), most) };
  },
};

export type ReachWorker = typeof worker;
expose(worker);

/** Where conditions get their timelines from: a course's history here, or what was sent to a browser. */
import { storyStart, type Course } from '../course/course.ts';
import type { History } from '../activity/history.ts';
import type { Instant } from '../time/instant.ts';
import { CATALOGUE } from './catalogue.ts';
import type { Fact } from './fact.ts';
import type { MeasureCall, Subject } from './measure.ts';
import type { Timeline } from './timeline.ts';

export interface Facts {
  readonly course: Course;
  timeline(person: number, call: MeasureCall): Timeline;
  fact(person: number, call: MeasureCall, t: Instant): Fact;
  /** Changes whenever what is known of the person changes. */
  version(person: number): number;
}

/** One key a measure and its parameters, whatever the threshold. */
export function callKey(call: MeasureCall): string {
  return JSON.stringify([call.measure, call.item, call.window, call.group, call.items]);
}

/** Facts read off a history, each timeline computed once until the person's log changes. */
export class HistoryFacts implements Facts {
  readonly course: Course;
  readonly history: History;
  private readonly horizon: Instant;
  private readonly lines = new Map<string, ({ version: number; line: Timeline } | undefined)[]>();

  /** `horizon`: how far ahead days are counted; the course's end when left out. */
  constructor(course: Course, history: History, horizon: Instant = course.calendar.end) {
    this.course = course;
    this.history = history;
    this.horizon = Math.max(horizon, course.calendar.end);
  }

  subject(person: number): Subject {
    const { course } = this;
    const who = course.people[person]!;
    return {
      course,
      person: who,
      log: this.history.people[person]!,
      story: storyStart(course, who),
      horizon: this.horizon,
    };
  }

  timeline(person: number, call: MeasureCall): Timeline {
    const key = callKey(call);
    let lines = this.lines.get(key);
    if (!lines) {
      lines = [];
      this.lines.set(key, lines);
    }
    const version = this.version(person);
    const cached = lines[person];
    if (cached && cached.version === version) return cached.line;
    const line = CATALOGUE[call.measure].timeline(this.subject(person), call);
    lines[person] = { version, line };
    return line;
  }

  fact(person: number, call: MeasureCall, t: Instant): Fact {
    return CATALOGUE[call.measure].fact(this.subject(person), call, t);
  }

  version(person: number): number {
    return this.history.people[person]!.version;
  }
}

/** Where conditions get their timelines from: a course's history here, or what was sent to a browser. */
import { storyStart, type Course } from '../course/course.ts';
import { isActiveStudent } from '../course/person.ts';
import type { History } from '../activity/history.ts';
import type { Instant } from '../time/instant.ts';
import { callKey } from './callKey.ts';
import { CATALOGUE } from './catalogue.ts';
import type { Fact } from './fact.ts';
import type { Klass, MeasureCall, Subject } from './measure.ts';
import type { Timeline } from './timeline.ts';

export interface Facts {
  readonly course: Course;
  timeline(person: number, call: MeasureCall): Timeline;
  fact(person: number, call: MeasureCall, t: Instant): Fact;
  /** Changes whenever what is known of the person changes, or with `classWide` of anyone. */
  version(person: number, classWide?: boolean): number;
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
      klass: this.klass(),
    };
  }

  private known: { readonly version: number; readonly klass: Klass } | null = null;

  private klass(): Klass {
    const { version } = this.history;
    if (this.known?.version !== version) {
      let subjects: readonly Subject[] | null = null;
      const all = () => this.course.people.flatMap((p, i) => (isActiveStudent(p) ? [this.subject(i)] : []));
      this.known = { version, klass: { subjects: () => (subjects ??= all()), memo: new Map() } };
    }
    return this.known.klass;
  }

  timeline(person: number, call: MeasureCall): Timeline {
    const key = callKey(call);
    let lines = this.lines.get(key);
    if (!lines) {
      lines = [];
      this.lines.set(key, lines);
    }
    const version = this.version(person, CATALOGUE[call.measure].classWide);
    const cached = lines[person];
    if (cached && cached.version === version) return cached.line;
    const line = CATALOGUE[call.measure].timeline(this.subject(person), call);
    lines[person] = { version, line };
    return line;
  }

  fact(person: number, call: MeasureCall, t: Instant): Fact {
    return CATALOGUE[call.measure].fact(this.subject(person), call, t);
  }

  version(person: number, classWide = false): number {
    return classWide ? this.history.version : this.history.people[person]!.version;
  }
}

/**
 * The campus simulator: plays a learning platform. For any stretch of time it tells what its students did in it, always
 * the same from the same seed and the same letters, so that a stretch may be asked for twice.
 */
import { DAY, HOUR, MINUTE, type Instant } from '@zest-bell/core/time';
import { dueFor, type Course, type Item, type Person } from '@zest-bell/core/course';
import { TRAITS, type Habit } from './habits.ts';
import { answers, visitsOn, type Pupil, type Visit } from './presence.ts';
import { between, chance } from './random.ts';

export interface CampusEvent {
  readonly id: string;
  readonly person: string;
  readonly kind: 'signIn' | 'visit' | 'open' | 'practice' | 'submit' | 'post' | 'complete' | 'attend' | 'absent';
  readonly item: string | null;
  readonly at: Instant;
}

export interface CampusGrade {
  readonly id: string;
  readonly person: string;
  readonly item: string;
  readonly points: number;
  readonly at: Instant;
}

export interface Activity {
  readonly events: readonly CampusEvent[];
  readonly grades: readonly CampusGrade[];
}

export interface CampusOptions {
  readonly seed: string;
  readonly habits: Readonly<Record<string, Habit>>;
  /** People who are enrolled and never come. */
  readonly never: readonly string[];
  /** When letters reached a student, in order. */
  readonly letters: (person: Person) => readonly Instant[];
}

interface DoneWork {
  readonly at: Instant;
  readonly kind: 'submit' | 'post' | 'practice';
}

/** What a student does of each item, and when: it changes only when another letter reaches them. */
interface Plan {
  readonly letters: number;
  readonly done: readonly (DoneWork | null)[];
}

export class Campus {
  readonly course: Course;
  private readonly options: CampusOptions;
  private readonly plans = new Map<string, Plan>();

  constructor(course: Course, options: CampusOptions) {
    this.course = course;
    this.options = options;
  }

  /** What happened in `(from, until]`, in order of time. */
  activity(from: Instant, until: Instant): Activity {
    const events: CampusEvent[] = [];
    const grades: CampusGrade[] = [];
    const within = (t: Instant) => t > from && t <= until;
    for (const person of this.course.people) {
      if (person.role !== 'student' || !person.active) continue;
      const letters = this.options.letters(person);
      for (const e of this.eventsOf(person, from, until, letters)) if (within(e.at)) events.push(e);
      for (const g of this.gradesOf(person, letters)) if (within(g.at)) grades.push(g);
    }
    const byTime = (a: { at: number; id: string }, b: { at: number; id: string }) =>
      a.at - b.at || (a.id < b.id ? -1 : 1);
    return { events: events.sort(byTime), grades: grades.sort(byTime) };
  }

  private pupil(person: Person): Pupil {
    return {
      id: person.id,
      habit: this.options.habits[person.id] ?? 'steady',
      enrolledAt: person.enrolledAt,
      absent: this.options.never.includes(person.id),
    };
  }

  private plan(person: Person, pupil: Pupil, letters: readonly Instant[]): Plan {
    const known = this.plans.get(person.id);
    if (known && known.letters === letters.length) return known;
    const done = this.course.items.map((item) => this.doing(person, pupil, item, letters));
    const plan = { letters: letters.length, done };
    this.plans.set(person.id, plan);
    return plan;
  }

  private *eventsOf(
    person: Person,
    from: Instant,
    until: Instant,
    letters: readonly Instant[],
  ): Generator<CampusEvent> {
    const { calendar } = this.course;
    const { seed } = this.options;
    const pupil = this.pupil(person);
    const first = Math.max(calendar.dayNumber(from) - 1, calendar.dayNumber(calendar.start));
    const last = Math.min(calendar.dayNumber(until), calendar.dayNumber(calendar.end - 1));
    const visits: Visit[] = answers(seed, pupil, letters);
    for (let day = first; day <= last; day++) visits.push(...visitsOn(seed, pupil, calendar, day, letters));
    for (const visit of visits) yield* this.sitting(pupil, visit);
    const plan = this.plan(person, pupil, letters);
    for (const [i, item] of this.course.items.entries()) {
      const done = plan.done[i];
      if (done)
        yield { id: `${person.id}-${item.id}-done`, person: person.id, kind: done.kind, item: item.id, at: done.at };
      if (item.kind !== 'session' || item.dueAt === null) continue;
      if (item.dueAt > from && item.dueAt <= until && item.dueAt > person.enrolledAt) {
        const there =
          !pupil.absent && this.comesTo(pupil, item.dueAt, letters) && chance(seed, person.id, item.id) < 0.9;
        const kind = there ? 'attend' : 'absent';
        yield { id: `${person.id}-${item.id}-${kind}`, person: person.id, kind, item: item.id, at: item.dueAt };
      }
    }
  }

  /** One sitting: signing in, the course's page, and a look at some of what is open. */
  private *sitting(pupil: Pupil, visit: Visit): Generator<CampusEvent> {
    const { seed } = this.options;
    const event = (kind: CampusEvent['kind'], item: string | null, minutes: number): CampusEvent => ({
      id: `${visit.id}-${kind}-${item ?? ''}`,
      person: pupil.id,
      kind,
      item,
      at: visit.at + Math.round(minutes * MINUTE),
    });
    yield event('signIn', null, 0);
    yield event('visit', null, 1);
    let minutes = 3;
    for (const item of this.course.items) {
      if (item.kind === 'session') continue;
      if (item.opensAt !== null && (item.opensAt > visit.at || visit.at - item.opensAt > 15 * DAY)) continue;
      if (item.id === 'syllabus' && chance(seed, pupil.id, 'never reads the syllabus') < 0.3) continue;
      const likely = item.kind === 'page' ? pageInterest(pupil.habit, item) : 0.22;
      if (chance(seed, visit.id, item.id) >= likely) continue;
      yield event('open', item.id, minutes);
      minutes += 2;
      if (item.kind !== 'practice') continue;
      if (chance(seed, visit.id, item.id, 'try') < 0.3 * TRAITS[pupil.habit].practises) {
        yield event('practice', item.id, minutes);
        minutes += 5;
      }
    }
  }

  /** Whether the student is about the course around an instant. */
  private comesTo(pupil: Pupil, at: Instant, letters: readonly Instant[]): boolean {
    const { calendar } = this.course;
    const day = calendar.dayNumber(at);
    for (let d = day - 2; d <= day; d++) {
      if (visitsOn(this.options.seed, pupil, calendar, d, letters).length > 0) return true;
    }
    return answers(this.options.seed, pupil, letters).some((v) => v.at <= at && at - v.at < 2 * DAY);
  }

  /** When a student does an item that is due, if ever. */
  private doing(person: Person, pupil: Pupil, item: Item, letters: readonly Instant[]): DoneWork | null {
    if (item.kind === 'page' || item.kind === 'session' || item.kind === 'practice') return null;
    const due = dueFor(item, person);
    if (due === null || due <= person.enrolledAt || pupil.absent) return null;
    const { seed } = this.options;
    const traits = TRAITS[pupil.habit];
    const kind = item.kind === 'forum' ? 'post' : 'submit';
    const lead = between(traits.lead[0], traits.lead[1], seed, person.id, item.id, 'lead');
    const opens = Math.max(item.opensAt ?? this.course.calendar.start, person.enrolledAt) + HOUR;
    const at = Math.max(due - Math.round(lead * HOUR), opens);
    const does = chance(seed, person.id, item.id, 'does') < traits.does && this.comesTo(pupil, at, letters);
    if (does) return { at, kind };
    // A letter brings a student back, and some of them hand in what they had missed.
    const back = answers(seed, pupil, letters).find((v) => v.at > due && v.at - due < 15 * DAY);
    if (back && chance(seed, person.id, item.id, 'catchesUp') < 0.65) return { at: back.at + 25 * MINUTE, kind };
    return null;
  }

  /** Work with points is graded two mornings after it came in; a few rounds of grading run late. */
  private *gradesOf(person: Person, letters: readonly Instant[]): Generator<CampusGrade> {
    const { calendar, items } = this.course;
    const { seed } = this.options;
    const pupil = this.pupil(person);
    const traits = TRAITS[pupil.habit];
    const plan = this.plan(person, pupil, letters);
    for (const [i, item] of items.entries()) {
      const done = plan.done[i];
      if (!item.points || !done) continue;
      const ready = Math.max(done.at, item.dueAt ?? done.at);
      const wait = 2 + Math.floor(between(0, 2, seed, item.id, 'grading'));
      const at = calendar.zone.toInstant((calendar.dayNumber(ready) + wait) * DAY) + 10 * HOUR;
      const share = between(traits.scores[0], traits.scores[1], seed, person.id, item.id, 'score');
      const points = Math.round(share * item.points * 2) / 2;
      yield { id: `${person.id}-${item.id}-grade`, person: person.id, item: item.id, points, at };
    }
  }
}

/** Pages are opened at first and now and then; some students never look where they stand. */
function pageInterest(habit: Habit, item: Item): number {
  if (item.topics.includes('standing'))
    return { steady: 0.2, nightOwl: 0.06, fading: 0.012, returning: 0.03, struggling: 0.05, excelling: 0.4 }[habit];
  return habit === 'fading' ? 0.12 : 0.3;
}

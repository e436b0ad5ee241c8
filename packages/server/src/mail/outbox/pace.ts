/** How quickly mail is taken, and what follows for how much of it is taken at once, of all courses and of each. */
import { CONNECTIONS } from '../../platform/mail/mail.ts';

/** A turn takes about as many as the mail server took lately in this time, in ms: a slow one has little prepared ahead of it. */
const SPAN = 300;
/** Longer than this on a line, in ms, is slow. */
const SLOW = 1_000;
/** Messages of a course that are in hand before one of its messages was taken quickly, and once some are slow. */
const SHARE_OF_LINES = 3;

/** A message on a line, for its course and its recipient's domain. */
interface LineUse {
  readonly course: number;
  readonly domain: string;
}

export class Pace {
  /** What a message has lately taken on its line, in ms; null before the first. */
  private lately: number | null = null;
  /** Courses of which the last message was taken quickly. */
  private readonly quick = new Set<number>();
  private readonly slowCourses = new Set<number>();
  private readonly slowDomains = new Set<string>();
  /** On a line now, with the moment at which they got it, by `performance.now()`. */
  private readonly onLine = new Map<LineUse, number>();

  /** A message got its line. */
  began(message: LineUse, now = performance.now()): void {
    this.onLine.set(message, now);
  }

  /** It was answered, or given up, after so many ms that it took itself; null where that says nothing. */
  ended(message: LineUse, ms: number | null): void {
    this.onLine.delete(message);
    if (ms === null) return;
    this.lately = this.lately === null ? ms : (4 * this.lately + ms) / 5;
    if (ms > SLOW) {
      this.quick.delete(message.course);
      this.slowCourses.add(message.course);
      this.slowDomains.add(message.domain);
    } else {
      this.quick.add(message.course);
      this.slowCourses.delete(message.course);
      this.slowDomains.delete(message.domain);
    }
  }

  /** Whether its last message was slow, or one has been on its line for long. */
  isSlowCourse(course: number, now = performance.now()): boolean {
    return this.slowCourses.has(course) || this.isLate((m) => m.course === course, now);
  }

  /** Whether the last message to it was slow, or one has been on its line for long. */
  isSlowDomain(domain: string, now = performance.now()): boolean {
    return this.slowDomains.has(domain) || this.isLate((m) => m.domain === domain, now);
  }

  /** Whether any message has been on its line for long. */
  get isHeldUp(): boolean {
    return this.isLate(() => true, performance.now());
  }

  private isLate(fits: (message: LineUse) => boolean, now: number): boolean {
    return [...this.onLine].some(([message, since]) => now - since > SLOW && fits(message));
  }

  /** How many a turn hands over, at most `most`; null before anything was handed over. */
  limit(most: number): number | null {
    if (this.lately === null) return null;
    return Math.min(most, Math.max(CONNECTIONS, Math.round((CONNECTIONS * SPAN) / Math.max(this.lately, 1))));
  }

  /**
   * How many more of a course may be taken, given those in hand already: a course with slow recipients, or of which
   * nothing is known yet, leaves lines for the others.
   */
  roomOf(inHand: readonly number[], now = performance.now()): (course: number) => number {
    const count = new Map<number, number>();
    for (const course of inHand) count.set(course, (count.get(course) ?? 0) + 1);
    return (course) =>
      !this.quick.has(course) || this.isSlowCourse(course, now)
        ? Math.max(0, SHARE_OF_LINES - (count.get(course) ?? 0))
        : Infinity;
  }
}

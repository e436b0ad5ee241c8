/** How quickly mail is taken, and what follows for how much of it is taken at once, of all courses and of each. */
import { CONNECTIONS } from '../../platform/mail/mail.ts';

/** A turn takes about as many as the mail server took lately in this time, in ms: a slow one has little prepared ahead of it. */
const SPAN = 300;
/** Longer than this on a line, in ms, is slow. */
const SLOW = 1_000;
/** Lines that a course may hold before one of its messages was taken quickly, and once some are slow. */
const SHARE_OF_LINES = 3;

interface OnLine {
  readonly claimed: { readonly message: { readonly course: number } };
  readonly since: number | null;
}

export class Pace {
  /** What a message has lately taken on its line, in ms; null before the first. */
  private lately: number | null = null;
  /** Courses of which the last message was taken quickly. */
  private readonly quick = new Set<number>();

  took(course: number, ms: number): void {
    this.lately = this.lately === null ? ms : (4 * this.lately + ms) / 5;
    if (ms > SLOW) this.quick.delete(course);
    else this.quick.add(course);
  }

  /** How many a turn hands over, at most `most`; null before anything was handed over. */
  limit(most: number): number | null {
    if (this.lately === null) return null;
    return Math.min(most, Math.max(CONNECTIONS, Math.round((CONNECTIONS * SPAN) / Math.max(this.lately, 1))));
  }

  /**
   * How many more of a course may be taken, with these in hand already, a course each: one whose readers are slow, or of which
   * nothing is known yet, leaves lines for the others.
   */
  roomOf(inHand: readonly number[], lines: readonly OnLine[], now = performance.now()): (course: number) => number {
    const slow = new Set(
      lines.flatMap((l) => (l.since !== null && now - l.since > SLOW ? [l.claimed.message.course] : [])),
    );
    const count = new Map<number, number>();
    for (const course of inHand) count.set(course, (count.get(course) ?? 0) + 1);
    return (course) =>
      this.quick.has(course) && !slow.has(course) ? Infinity : Math.max(0, SHARE_OF_LINES - (count.get(course) ?? 0));
  }
}

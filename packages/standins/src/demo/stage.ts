/**
 * Moves the demo: as the clock goes ahead, the campus's activity is told to the server from outside, rounds run at their own
 * instants, and mail is handed over when it is due.
 */
import { DAY, HOUR, type Instant } from '@zest-bell/core/time';
import type { AdvanceStep } from '@zest-bell/core/exchange';
import type { Activity, Campus } from '../campus/simulator.ts';
import type { DemoClock } from '../clock/demoClock.ts';

/** What the stage needs of the server that it plays for. */
export interface StageHooks {
  /** The instant of the next round of any course, or null. */
  nextRound(): Promise<Instant | null>;
  /** When the next queued message is due, or null. */
  nextMail(): Promise<Instant | null>;
  runRounds(): Promise<void>;
  sendMail(): Promise<void>;
  /** When somebody next answers a letter, or null. */
  nextAnswer(): Instant | null;
  /** Brings the answers written in `(from, until]` to the server, each as a mail. */
  bringAnswers(from: Instant, until: Instant): Promise<void>;
}

export interface CampusFeed {
  readonly campus: Campus;
  /** Tells the server what happened, by whichever way the course is fed; again if need be. */
  tell(activity: Activity, now: Instant): Promise<void>;
}

export interface StageOptions {
  readonly clock: DemoClock;
  readonly feeds: readonly CampusFeed[];
  readonly hooks: StageHooks;
}

export class DemoStage {
  private readonly o: StageOptions;
  private moving: Promise<void> = Promise.resolve();

  constructor(options: StageOptions) {
    this.o = options;
  }

  /** Moves the clock by a step; one move at a time. */
  advance(by: AdvanceStep): Promise<void> {
    return this.queue(async () => {
      const now = this.o.clock.now();
      const zoneStep = this.o.feeds[0]!.campus.course.calendar;
      if (by === 'hour') return this.go(now + HOUR);
      if (by === 'day') return this.go(zoneStep.addDays(now, 1));
      const next = await this.o.hooks.nextRound();
      if (next !== null) await this.go(next);
    });
  }

  /** Moves the clock to an instant, through everything that lies before it. */
  moveTo(target: Instant): Promise<void> {
    return this.queue(() => this.go(target));
  }

  /** After a restart: what a killed process may not have told is told again; the same ids change nothing. */
  resume(): Promise<void> {
    return this.queue(() => this.tellAndRing(this.o.clock.now() - DAY, this.o.clock.now()));
  }

  /** The learning platform goes silent, or tells at once all that it kept to itself. */
  silence(silent: boolean): Promise<void> {
    return this.queue(async () => {
      const { clock } = this.o;
      const since = clock.silentSince;
      clock.silence(silent);
      if (!silent && since !== null) await this.tellAndRing(since, clock.now());
    });
  }

  private queue(work: () => Promise<void>): Promise<void> {
    const mine = this.moving.then(work);
    this.moving = mine.catch(() => undefined);
    return mine;
  }

  private async go(target: Instant): Promise<void> {
    const { clock, hooks } = this.o;
    while (clock.now() < target) {
      const now = clock.now();
      const candidates = [await hooks.nextRound(), await hooks.nextMail(), hooks.nextAnswer()];
      const next = Math.min(target, ...candidates.filter((t): t is number => t !== null && t > now));
      clock.moveTo(next);
      await this.tellAndRing(now, next);
    }
  }

  private async tellAndRing(from: Instant, until: Instant): Promise<void> {
    const { hooks } = this.o;
    if (this.o.clock.silentSince === null)
      for (const feed of this.o.feeds) await feed.tell(feed.campus.activity(from, until), until);
    await hooks.bringAnswers(from, until);
    // Mail due at a round's instant gets its second look before the round (engine R9).
    await hooks.sendMail();
    await hooks.runRounds();
    await hooks.sendMail();
  }
}

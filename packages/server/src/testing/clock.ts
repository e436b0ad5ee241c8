import type { Clock, Instant } from '@zest-bell/core/time';

/** A clock that a test sets. */
export class TestClock implements Clock {
  private at: Instant;

  constructor(at: Instant) {
    this.at = at;
  }

  now(): Instant {
    return this.at;
  }

  set(at: Instant): void {
    this.at = at;
  }
}

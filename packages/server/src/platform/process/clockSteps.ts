/** Notices when the wall clock is set, by the clock of the machine that only ever goes on. */
import type { Instant } from '@zest-bell/core/time';
import { wallClock } from './clock.ts';

/** A smaller difference is that of two clocks that run at their own pace, in ms. */
const LEAST = 60_000;

export interface ClockStep {
  /** What the wall clock would say now without the step. */
  readonly from: Instant;
  /** What it says. */
  readonly to: Instant;
}

export class ClockSteps {
  private readonly wall: () => number;
  private readonly steady: () => number;
  private ahead: number;

  constructor(wall: () => number = wallClock, steady: () => number = () => performance.now()) {
    this.wall = wall;
    this.steady = steady;
    this.ahead = wall() - steady();
  }

  /** The step since the last look, if there was one of a minute or more. A machine that slept looks as if its clock had been set forward. */
  look(): ClockStep | null {
    const steady = this.steady();
    const to = this.wall();
    const from = this.ahead + steady;
    this.ahead = to - steady;
    return Math.abs(to - from) < LEAST ? null : { from, to };
  }
}

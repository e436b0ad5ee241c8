/** A clock that stops until it is moved, and keeps its time over a restart. */
import { readFileSync, writeFileSync, renameSync } from 'node:fs';
import { z } from 'zod';
import type { Clock, Instant } from '@zest-bell/core/time';

const stateSchema = z.object({
  now: z.number().int(),
  /** Since when the campus tells nothing; null while it does. */
  silentSince: z.number().int().nullable().default(null),
});
type ClockState = z.infer<typeof stateSchema>;

export class DemoClock implements Clock {
  private readonly file: string;
  private state: ClockState;

  /** `start`: used when the file does not exist yet. */
  constructor(file: string, start: Instant) {
    this.file = file;
    this.state = readState(file) ?? { now: start, silentSince: null };
  }

  now(): Instant {
    return this.state.now;
  }

  /** Since when the campus tells nothing; null while it does. */
  get silentSince(): Instant | null {
    return this.state.silentSince;
  }

  /** Moves the clock ahead; it never goes back. */
  moveTo(t: Instant): void {
    if (t > this.state.now) this.write({ ...this.state, now: t });
  }

  silence(silent: boolean): void {
    if (silent === (this.state.silentSince !== null)) return;
    this.write({ ...this.state, silentSince: silent ? this.state.now : null });
  }

  private write(state: ClockState): void {
    this.state = state;
    // Written beside and renamed, so that a killed process leaves the old state or the new one.
    writeFileSync(`${this.file}.new`, JSON.stringify(state));
    renameSync(`${this.file}.new`, this.file);
  }
}

function readState(file: string): ClockState | null {
  try {
    return stateSchema.parse(JSON.parse(readFileSync(file, 'utf8')));
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw error;
  }
}

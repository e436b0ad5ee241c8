/** A clock that stands still until it is moved, and stands where it stood after a restart. */
import { readFileSync, writeFileSync, renameSync } from 'node:fs';
import { z } from 'zod';
import type { Clock, Instant } from '@zest-bell/core';

const stateSchema = z.object({ now: z.number().int() });

export class DemoClock implements Clock {
  private readonly file: string;
  private at: Instant;

  /** `start`: where it stands when the file does not exist yet. */
  constructor(file: string, start: Instant) {
    this.file = file;
    this.at = readState(file) ?? start;
  }

  now(): Instant {
    return this.at;
  }

  /** Moves the clock ahead; it never goes back. */
  moveTo(t: Instant): void {
    if (t <= this.at) return;
    this.at = t;
    // Written beside and renamed, so that a killed process leaves the old state or the new one.
    writeFileSync(`${this.file}.new`, JSON.stringify({ now: t }));
    renameSync(`${this.file}.new`, this.file);
  }
}

function readState(file: string): Instant | null {
  try {
    return stateSchema.parse(JSON.parse(readFileSync(file, 'utf8'))).now;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
    throw error;
  }
}

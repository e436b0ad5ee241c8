import { handOut, borrowRoom } from '../../time/room.ts';
import type { Instant } from '../../time/instant.ts';
import type { Numbers } from './timeline.ts';
import { round9 } from './value.ts';

/**
 * Collects numbers in order; one that does not change adds no step, a second one at an instant replaces the first. Null is
 * unknown. It is built once, and takes nothing after that.
 */
export class NumbersBuilder {
  private readonly room: number[] = borrowRoom();
  private length = 0;

  set(at: Instant, value: number | null): this {
    const { room, length } = this;
    const v = value === null ? NaN : round9(value);
    if (length > 0 && room[length - 2]! >= at) {
      if (length > 2 && isSame(room[length - 3]!, v)) this.length -= 2;
      else room[length - 1] = v;
    } else if (length === 0 || !isSame(room[length - 1]!, v)) {
      room[length] = at;
      room[length + 1] = v;
      this.length += 2;
    }
    return this;
  }

  build(): Numbers {
    return { kind: 'numbers', steps: handOut(this.room, this.length) };
  }
}

const isSame = (a: number, b: number): boolean => a === b || (Number.isNaN(a) && Number.isNaN(b));

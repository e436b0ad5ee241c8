/**
 * A long computation in parts: anyone who runs it may let others have their turn in between, or stop. A part may say which share
 * of the whole is done, 0 to 1.
 */
export type WorkInParts<T> = Generator<number | void, T, void>;

/** A part of a longer computation: its shares are those of the whole from `from` to `to`. */
export function* within<T>(work: WorkInParts<T>, from: number, to: number): WorkInParts<T> {
  for (;;) {
    const part = work.next();
    if (part.done) return part.value;
    yield part.value === undefined ? undefined : from + (to - from) * part.value;
  }
}

/** Runs a computation to its end at once. */
export function runWhole<T>(work: WorkInParts<T>): T {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
}

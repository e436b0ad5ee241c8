// Test files pass in any order: they are shuffled, and ZEST_SEED repeats an order.
import Sequencer from '@jest/test-sequencer';

const seed = Number(process.env.ZEST_SEED) || Math.floor(Math.random() * 2 ** 31);

/** Numbers from 0 to 1 that follow from a seed (mulberry32, from memory). */
function numbersFrom(seed) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

export default class Shuffled extends Sequencer {
  sort(tests) {
    process.stderr.write(`The order of test files follows from ZEST_SEED=${seed}\n`);
    const next = numbersFrom(seed);
    // By path first, so that the order follows from the seed alone.
    return tests
      .toSorted((a, b) => (a.path < b.path ? -1 : 1))
      .map((test) => ({ test, place: next() }))
      .toSorted((a, b) => a.place - b.place)
      .map(({ test }) => test);
  }
}

import { expect, test } from '@jest/globals';
import { HOUR, MINUTE } from '@zest-bell/core/time';
import { ClockSteps } from './clockSteps.ts';

test('a clock that was set is seen once, by how much, and one that runs a little fast is not', () => {
  let [wall, steady] = [1_000 * HOUR, 5];
  const steps = new ClockSteps(
    () => wall,
    () => steady,
  );
  const pass = (ms: number, drift = 0) => {
    steady += ms;
    wall += ms + drift;
  };
  pass(5_000, 20);
  expect(steps.look()).toBeNull();
  pass(5_000, -2 * HOUR);
  expect(steps.look()).toEqual({ from: wall + 2 * HOUR, to: wall });
  pass(5_000);
  expect(steps.look()).toBeNull();
  pass(5_000, MINUTE);
  expect(steps.look()).toEqual({ from: wall - MINUTE, to: wall });
});

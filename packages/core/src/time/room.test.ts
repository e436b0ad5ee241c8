import { expect, test } from '@jest/globals';
import { handOut, borrowRoom } from './room.ts';

test('whoever takes room while another collects gets another one', () => {
  const outer = borrowRoom();
  outer[0] = 1;
  const inner = borrowRoom();
  expect(inner).not.toBe(outer);
  inner[0] = 5;
  inner[1] = 6;
  expect(handOut(inner, 2)).toEqual([5, 6]);
  outer[1] = 2;
  expect(handOut(outer, 2)).toEqual([1, 2]);
});

test('what was handed out stays as it was when its room is filled again', () => {
  const first = borrowRoom();
  first[0] = 1;
  const kept = handOut(first, 1);
  const again = borrowRoom();
  again[0] = 9;
  handOut(again, 1);
  expect(kept).toEqual([1]);
});

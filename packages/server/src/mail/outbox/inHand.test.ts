import { describe, expect, test } from '@jest/globals';
import type { ClaimedMessage } from './claim.ts';
import { MessagesInHand } from './inHand.ts';
import type { JudgedMessage } from './judge.ts';
import type { QueuedMessage } from './queue.ts';

const message = (id: number) => ({ id, course: 1 }) as QueuedMessage;
const judged = (id: number, ...riders: number[]) =>
  ({ message: message(id), riders: riders.map((r) => ({ message: message(r) })) }) as unknown as JudgedMessage;
const claimed = (id: number) => ({ message: message(id) }) as ClaimedMessage;
const SENT = { kind: 'sent', response: '250' } as const;

describe('a message in hand', () => {
  test('goes from reserved to written, and is no longer in hand then', () => {
    const hand = new MessagesInHand();
    hand.reserve([message(1), message(2)]);
    hand.judge([judged(1), judged(2)]);
    // The second waits: it is written and never comes on a line.
    const one = claimed(1);
    hand.write(
      hand.in('judged').map((h) => h.judged),
      [one],
    );
    expect(hand.in('line').map((h) => h.claimed.message.id)).toEqual([1]);
    hand.answer(one, SENT);
    hand.settle(hand.in('answered'));
    for (const phase of ['reserved', 'judged', 'line', 'answered', 'back', 'lost'] as const)
      expect(hand.in(phase)).toEqual([]);
  });

  test('carries its bundle, and gives it up as a whole', () => {
    const hand = new MessagesInHand();
    hand.reserve([message(1), message(2), message(3)]);
    hand.judge([judged(2, 1)]);
    hand.lose();
    expect(
      hand
        .in('lost')
        .flatMap((h) => h.messages)
        .toSorted(),
    ).toEqual([1, 2, 3]);
  });

  test('is judged again a minute after it was judged, also when it waits for a line by then', () => {
    const hand = new MessagesInHand();
    hand.reserve([message(1), message(2), message(3)]);
    hand.judge([judged(1), judged(2)], 1_000);
    hand.judge([judged(3)], 30_000);
    hand.write([judged(1)], [claimed(1)]);
    expect(hand.isStale(claimed(1), 61_000)).toBe(false);
    hand.loseStale(61_000);
    expect(hand.in('judged')).toHaveLength(2);
    hand.loseStale(61_001);
    expect(hand.in('lost').flatMap((h) => h.messages)).toEqual([2]);
    expect(hand.in('judged').map((h) => h.judged.message.id)).toEqual([3]);
    expect(hand.isStale(claimed(1), 61_001)).toBe(true);
  });

  test.each<[string, (hand: MessagesInHand) => void]>([
    ['is reserved twice', (hand) => hand.reserve([message(1)])],
    ['comes on a line before it is judged', (hand) => hand.write([judged(1)], [claimed(1)])],
    ['is answered before it was on a line', (hand) => hand.answer(claimed(1), SENT)],
    ['is answered and was never in hand', (hand) => hand.answer(claimed(9), null)],
  ])('never %s', (_case, wrong) => {
    const hand = new MessagesInHand();
    hand.reserve([message(1)]);
    expect(() => wrong(hand)).toThrow(/message \d/);
  });

  test('is not given up once it is on a line: its answer decides', () => {
    const hand = new MessagesInHand();
    hand.reserve([message(1)]);
    hand.judge([judged(1)]);
    hand.write([judged(1)], [claimed(1)]);
    hand.lose();
    expect(hand.in('line')).toHaveLength(1);
    hand.answer(hand.in('line')[0]!.claimed, null);
    expect(hand.in('back')).toHaveLength(1);
  });
});

import { describe, expect, test } from '@jest/globals';
import { logOf, NOTHING_LOGGED, NudgeLog, type LoggedNudge } from './log.ts';

const nudge = (round: number, more: Partial<LoggedNudge> = {}): LoggedNudge => ({
  rule: 'away',
  student: 'p1',
  round,
  step: 0,
  state: 'sent',
  toStudent: true,
  ...more,
});
const rounds = (log: NudgeLog, student = 'p1') => log.of(student).map((n) => n.round);

describe('a log that limits are counted from', () => {
  test('holds each student’s nudges in their order', () => {
    const log = new NudgeLog([nudge(1), nudge(2, { student: 'p2' })]);
    log.add(nudge(3));
    expect([rounds(log), rounds(log, 'p2'), rounds(log, 'p3')]).toEqual([[1, 3], [2], []]);
    expect(rounds(new NudgeLog())).toEqual([]);
    expect(NOTHING_LOGGED).toEqual({ nudges: [], replies: [] });
  });

  test('goes back to a mark, and no further', () => {
    const log = new NudgeLog([nudge(1)]);
    const mark = log.mark();
    log.add(nudge(2));
    log.add(nudge(3, { student: 'p2' }));
    log.rewind(mark);
    expect([rounds(log), rounds(log, 'p2')]).toEqual([[1], []]);
    log.rewind(mark);
    expect(rounds(log)).toEqual([1]);
    log.add(nudge(4));
    expect(rounds(log)).toEqual([1, 4]);
  });

  test('puts one entry in place of another, and leaves alone what it does not hold', () => {
    const [first, second] = [nudge(1), nudge(2)];
    const log = new NudgeLog([first, second]);
    log.replace(second, { ...second, state: 'withdrawn' });
    expect(log.of('p1').map((n) => n.state)).toEqual(['sent', 'withdrawn']);
    log.replace(nudge(1), { ...first, state: 'failed' });
    log.replace(nudge(1, { student: 'p9' }), { ...first, state: 'failed' });
    expect(log.of('p1').map((n) => n.state)).toEqual(['sent', 'withdrawn']);
    expect(log.of('p1')).toHaveLength(2);
  });

  test('knows a reply within a span, both of its ends included', () => {
    const log = logOf({
      nudges: [],
      replies: [
        { student: 'p1', at: 20 },
        { student: 'p1', at: 10 },
        { student: 'p2', at: 15 },
      ],
    });
    expect([log.replied('p1', 10, 12), log.replied('p1', 8, 10), log.replied('p1', 20, 20)]).toEqual([
      true,
      true,
      true,
    ]);
    expect([log.replied('p1', 11, 19), log.replied('p1', 21, 99), log.replied('p1', 0, 9)]).toEqual([
      false,
      false,
      false,
    ]);
    expect([log.replied('p2', 10, 20), log.replied('p3', 0, 99)]).toEqual([true, false]);
  });
});

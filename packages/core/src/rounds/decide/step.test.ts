import { describe, expect, test } from '@jest/globals';
import { at, courseOf, ruleOf } from '../../testing/build.ts';
import { stepAt } from './step.ts';

const course = courseOf();
const step = (after: object) => ({ after, deliver: 'send', to: ['student'], wording: 'w' });
const rule = ruleOf({ steps: [step({ days: 1 }), step({ days: 4 }), step({ days: 9 })] });
const START = at('2026-09-07T12:00');
const sent = (round: string, k: number) => ({
  rule: 'away',
  student: 'p1',
  round: at(round),
  step: k,
  state: 'sent' as const,
  toStudent: true,
});
const due = (round: string, ...log: ReturnType<typeof sent>[]) => stepAt(rule, log, START, at(round), course);

describe('[R4] the step that is due', () => {
  test('the first from just its distance after the spell’s start', () => {
    expect([due('2026-09-08T11:59'), due('2026-09-08T12:00'), due('2026-11-30T12:00')]).toEqual([null, 0, 0]);
  });

  test('a later one from just its distance after the start and after the step before', () => {
    const first = sent('2026-09-08T12:00', 0);
    expect([due('2026-09-11T11:59', first), due('2026-09-11T12:00', first)]).toEqual([0, 1]);
    // The first came late: the second keeps its three days from it.
    const late = sent('2026-09-20T12:00', 0);
    expect([due('2026-09-23T11:59', late), due('2026-09-23T12:00', late)]).toEqual([0, 1]);
    // The first came early, as it may when the spell's start moved on: the second waits for its distance from the start.
    const early = sent('2026-09-05T12:00', 0);
    expect([due('2026-09-11T11:59', early), due('2026-09-11T12:00', early)]).toEqual([0, 1]);
  });

  test('counts from the first nudge of the step before, in whatever order the log stands', () => {
    const twice = [sent('2026-09-15T12:00', 0), sent('2026-09-08T12:00', 0)];
    expect(due('2026-09-11T12:00', ...twice)).toBe(1);
    expect(due('2026-09-11T12:00', ...twice.toReversed())).toBe(1);
  });

  test('goes on from the highest step that was taken', () => {
    const log = [sent('2026-09-11T12:00', 1), sent('2026-09-08T12:00', 0)];
    expect([due('2026-09-16T11:59', ...log), due('2026-09-16T12:00', ...log)]).toEqual([1, 2]);
    expect(due('2026-09-16T12:00', ...log.toReversed())).toBe(2);
  });

  test('the last step stays due, also when the rule had more steps before', () => {
    expect(due('2026-10-30T12:00', sent('2026-09-16T12:00', 2))).toBe(2);
    expect(due('2026-10-30T12:00', sent('2026-09-16T12:00', 5))).toBe(2);
  });
});

import { describe, expect, test } from '@jest/globals';
import { at, factsOf, person, ruleOf } from '../../testing/build.ts';
import { NudgeLog } from './log.ts';
import { spellsUpTo, standingOf } from './standing.ts';

const facts = factsOf({
  people: [person('p1'), person('p2', { section: '02' }), person('p3', { enrolledAt: at('2026-10-10T00:00') })],
  events: [
    ['p1', 'visit', '2026-09-01T10:05'],
    ['p1', 'visit', '2026-09-10T10:00'],
    ['p1', 'visit', '2026-09-10T10:30'],
    ['p2', 'visit', '2026-09-19T10:00'],
  ],
});
const { course } = facts;
const p = (id: string) => course.personIndex.get(id)!;
const away = ruleOf();
const now = at('2026-09-20T09:00');

describe('how a rule stands with a student', () => {
  test('[C5] [C6] it says whether it holds, since when, and the fact behind each condition', () => {
    const standing = standingOf(away, p('p1'), facts, new NudgeLog([], []), now);
    expect(standing).toMatchObject({
      inAudience: true,
      verdict: true,
      since: at('2026-09-15T10:30'),
      step: 0,
      refusals: [],
    });
    expect(standing.evidence).toMatchObject([{ measure: 'daysSinceVisit', value: 9, verdict: true }]);
    expect(standingOf(away, p('p2'), facts, new NudgeLog([], []), now)).toMatchObject({
      verdict: false,
      since: null,
      step: null,
    });
  });

  test('[H4] [C3] of a student whose story has not started nothing is known', () => {
    expect(standingOf(away, p('p3'), facts, new NudgeLog([], []), now)).toMatchObject({
      inAudience: false,
      verdict: null,
    });
  });

  test('[R2] outside the audience there is a verdict, and no step', () => {
    const others = { ...away, audience: { ...away.audience, sections: ['02'] } };
    expect(standingOf(others, p('p1'), facts, new NudgeLog([], []), now)).toMatchObject({
      inAudience: false,
      verdict: true,
      step: null,
    });
  });

  test('[R6] limits that would refuse are named, the first first', () => {
    const nudge = {
      rule: 'away',
      student: 'p1',
      round: at('2026-09-16T09:30'),
      step: 0,
      state: 'sent' as const,
      toStudent: true,
    };
    expect(standingOf(away, p('p1'), facts, new NudgeLog([nudge], []), now).refusals).toEqual(['perSpell']);
  });

  test('[C6] spells so far are closed but for the one that goes on', () => {
    expect(spellsUpTo(away, p('p1'), facts, now)).toEqual([
      { from: at('2026-09-06T10:05'), to: at('2026-09-10T10:00') },
      { from: at('2026-09-15T10:30'), to: null },
    ]);
    expect(spellsUpTo(away, p('p1'), facts, at('2026-09-08T00:00'))).toEqual([
      { from: at('2026-09-06T10:05'), to: null },
    ]);
    expect(spellsUpTo(away, p('p1'), facts, at('2026-09-02T00:00'))).toEqual([]);
  });
});

test('[R2] turned on for new spells only, an earlier spell finds nobody, and one that begins just then does', () => {
  const from = (spellsFrom: number | null) =>
    standingOf({ ...away, spellsFrom }, p('p1'), facts, new NudgeLog([], []), now);
  const start = at('2026-09-15T10:30');
  expect(from(null)).toMatchObject({ step: 0, refusals: [] });
  expect(from(start)).toMatchObject({ since: start, step: 0 });
  expect(from(start + 1)).toMatchObject({ verdict: true, since: start, step: null, refusals: [] });
});

test('[C6] a spell is one from its first instant on, and closed at the instant it ends', () => {
  const spells = (t: number) => spellsUpTo(away, p('p1'), facts, t);
  const [start, end] = [at('2026-09-06T10:05'), at('2026-09-10T10:00')];
  expect([spells(start - 1), spells(start)]).toEqual([[], [{ from: start, to: null }]]);
  expect([spells(end - 1), spells(end)]).toEqual([[{ from: start, to: null }], [{ from: start, to: end }]]);
});

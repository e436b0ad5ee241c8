import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { at, factsOf, person, ruleOf } from '../../testing/build.ts';
import { runs } from '../../testing/runs.ts';
import { DAY } from '../../time/instant.ts';
import { countedByAny, countedFrom, type CountedNudges } from './counted.ts';
import { NudgeLog, type LoggedNudge } from './log.ts';
import { previewComingRounds } from '../whatIf/lookAhead.ts';
import { replay } from '../whatIf/replay.ts';

const counts = ({ since, older }: CountedNudges, n: LoggedNudge): boolean =>
  n.round >= since ||
  older.some((o) => o.rule === n.rule && n.round >= o.from && (o.students?.includes(n.student) ?? true));

describe('what limits may count', () => {
  const limits = fc.record({
    perSpell: fc.option(fc.integer({ min: 1, max: 3 })),
    perTerm: fc.option(fc.integer({ min: 1, max: 9 })),
    gap: fc.option(fc.record({ days: fc.integer({ min: 0, max: 12 }), hours: fc.integer({ min: 0, max: 30 }) })),
  });
  const draft = fc.record({
    value: fc.integer({ min: 2, max: 9 }),
    repeat: limits,
    steps: fc.integer({ min: 1, max: 3 }),
    after: fc.integer({ min: 1, max: 6 }),
  });
  // Days of the term; the clocks change on Nov 1.
  const visits = fc.array(fc.tuple(fc.integer({ min: 0, max: 2 }), fc.integer({ min: 0, max: 90 * 24 })), {
    maxLength: 40,
  });

  test('[R3] [R4] [R5] [R7] is all that makes a difference to the rounds that come', () => {
    fc.assert(
      fc.property(
        fc.array(draft, { minLength: 1, maxLength: 3 }),
        visits,
        fc.option(fc.record({ count: fc.integer({ min: 1, max: 3 }), days: fc.integer({ min: 1, max: 10 }) })),
        fc.integer({ min: 20 * 24, max: 95 * 24 }),
        (drafts, events, budget, hour) => {
          const facts = factsOf({ people: ['p1', 'p2', 'p3'].map((id) => person(id)), settings: { budget } });
          const { calendar } = facts.course;
          for (const [who, h] of events) {
            const visit = {
              person: `p${who + 1}`,
              kind: 'visit' as const,
              item: null,
              at: calendar.start + h * 3_600_000,
            };
            facts.history.addEvent(visit);
          }
          const rules = drafts.map(({ value, repeat, steps, after }, i) =>
            ruleOf({
              id: `r${i}`,
              name: `Rule ${i}`,
              repeat,
              when: { measure: 'daysSinceVisit', is: '>=', value },
              steps: Array.from({ length: steps }, (_, k) => ({
                deliver: 'send',
                to: ['student'],
                wording: 'w',
                after: { days: k * after },
              })),
            }),
          );
          const now = calendar.start + hour * 3_600_000;
          const log = new NudgeLog();
          replay(rules, facts, { until: now }, log);
          const all = facts.course.people.flatMap((p) => log.of(p.id));
          const counted = all.filter((n) => counts(countedFrom(rules, facts, now + 1), n));
          const coming = (nudges: readonly LoggedNudge[]) =>
            previewComingRounds(rules, facts, nudges, now, now + 10 * DAY);
          expect(coming(counted)).toEqual(coming(all));
        },
      ),
      runs(20261127, 150),
    );
  });

  test('of a week is little of a term', () => {
    const facts = factsOf({
      settings: { budget: { count: 3, days: 7 } },
      events: [['p1', 'visit', '2026-11-01T10:00']],
    });
    const from = at('2026-11-20T09:30');
    const { since, older } = countedFrom([ruleOf()], facts, from);
    expect(since).toBe(at('2026-11-12T09:30'));
    // The spell that goes on began five days after the visit.
    expect(older).toEqual([{ rule: 'away', from: at('2026-11-06T10:00'), students: ['p1'] }]);
    expect(countedFrom([ruleOf()], facts, at('2026-11-03T09:30')).older).toEqual([]);
  });

  test('is all of a rule with a limit for the term or with another condition before, and nothing without limits', () => {
    const facts = factsOf({ events: [['p1', 'visit', '2026-11-20T09:00']] });
    const from = at('2026-11-20T09:30');
    const ofTerm = { rule: 'away', from: -Infinity, students: null };
    expect(countedFrom([ruleOf({ repeat: { perTerm: 3 } })], facts, from).older).toEqual([ofTerm]);
    expect(countedFrom([ruleOf()], facts, from, new Set(['away'])).older).toEqual([ofTerm]);
    expect(countedFrom([ruleOf()], facts, from)).toEqual({ since: Infinity, older: [] });
  });

  test('by any of two is what counts by the one or the other', () => {
    const [one, other] = [
      { since: 5, older: [] },
      { since: 3, older: [{ rule: 'a', from: 1, students: null }] },
    ];
    expect(countedByAny([one, other])).toEqual({ since: 3, older: other.older });
  });
});

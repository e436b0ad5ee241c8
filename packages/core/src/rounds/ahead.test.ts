/** The coming days: as students went on in the last two weeks, and whether that is too noisy. */
import { describe, expect, test } from '@jest/globals';
import { evidenceAt } from '../conditions/evidence.ts';
import { at, factsOf, item, person, ruleOf, type Story } from '../testing/build.ts';
import { lookAhead } from './lookAhead.ts';
import { noiseOf } from './noise.ts';
import { repeatedFacts } from './repeatedDays.ts';

const NOW = at('2026-09-21T08:00');
const UNTIL = at('2026-10-05T08:00');
const PEOPLE = ['p1', 'p2'].map((id) => person(id));
const story: Story = {
  people: PEOPLE,
  items: [
    item('w1', { dueAt: at('2026-09-14T23:59') }),
    item('w2', { dueAt: at('2026-09-28T23:59') }),
    item('w3', { dueAt: at('2026-10-04T23:59') }),
  ],
  events: [
    // Longer ago than two weeks: not repeated.
    ['p1', 'visit', '2026-09-06T10:00'],
    ['p1', 'visit', '2026-09-10T10:00'],
    ['p1', 'visit', '2026-09-17T10:00'],
    // An hour late.
    ['p1', 'submit', '2026-09-15T00:59', 'w1'],
    ['p2', 'visit', '2026-09-02T10:00'],
  ],
};
const visitsOf = (id: string, facts: ReturnType<typeof factsOf>) => {
  const { times, length } = facts.history.logOf(id);
  return [...times.subarray(0, length)].filter((t) => t > NOW);
};

describe('if the last 14 days repeat', () => {
  const facts = factsOf(story);
  const repeated = repeatedFacts(facts, NOW, UNTIL);

  test('visits come again 14 calendar days later, and work is turned in as the work before was', () => {
    expect(visitsOf('p1', repeated)).toEqual([
      at('2026-09-24T10:00'),
      at('2026-09-29T00:59'),
      at('2026-10-01T10:00'),
      at('2026-10-05T00:59'),
    ]);
  });

  test('who did nothing does nothing, and the course itself is left as it was', () => {
    expect(visitsOf('p2', repeated)).toEqual([]);
    expect(visitsOf('p1', facts)).toEqual([]);
    expect(repeatedFacts(factsOf({ people: PEOPLE }), NOW, UNTIL).history.eventCount).toBe(0);
  });

  test('over a longer span they come again and again', () => {
    const long = repeatedFacts(factsOf({ ...story, items: [] }), NOW, at('2026-10-17T08:00'));
    expect(visitsOf('p1', long)).toEqual([
      at('2026-09-24T10:00'),
      at('2026-10-01T10:00'),
      at('2026-10-08T10:00'),
      at('2026-10-15T10:00'),
    ]);
  });

  test('a rule that would find a student if nobody does anything more finds them less often', () => {
    const rule = ruleOf({ rhythm: { start: '2026-09-01T09:30', rrule: 'FREQ=DAILY' } });
    const nudged = (of: typeof facts) =>
      lookAhead([rule], of, [], NOW, UNTIL).flatMap((d) => (d.outcome === 'sent' ? [d.student] : []));
    expect(nudged(facts)).toEqual(['p2', 'p1']);
    const days = repeated.timeline(0, { measure: 'daysSinceVisit' });
    expect(days).not.toBe(facts.timeline(0, { measure: 'daysSinceVisit' }));
    expect(evidenceAt(repeated, 0, rule.when, at('2026-09-25T09:30'))[0]).toMatchObject({ value: 0 });
  });

  test('work that one would have turned in before now is done next, and what is done is not done again', () => {
    const early = factsOf({
      people: PEOPLE,
      items: [item('w1', { dueAt: at('2026-09-14T12:00') }), item('w2', { dueAt: at('2026-09-23T12:00') })],
      events: [
        ['p1', 'submit', '2026-09-09T12:00', 'w1'],
        ['p2', 'submit', '2026-09-13T12:00', 'w1'],
        ['p2', 'submit', '2026-09-20T12:00', 'w2'],
      ],
    });
    const next = repeatedFacts(early, NOW, UNTIL);
    expect(visitsOf('p1', next)).toEqual([at('2026-09-21T09:00')]);
    expect(visitsOf('p2', next)).toEqual([]);
  });
});

describe('a week is', () => {
  const names = (n: number) => Array.from({ length: n }, (_, i) => `p${i}`);
  test.each([
    [0, [10, 10], 'silent'],
    [14, [10, 10], 'usual'],
    [15, [10, 10], 'louder'],
    // Half again as many of very few is no noise.
    [6, [2, 2], 'usual'],
    [7, [2, 2], 'louder'],
    [100, [], 'usual'],
  ] as const)('with %i nudges after %j: %s', (coming, past, verdict) => {
    expect(noiseOf(names(coming), past)).toMatchObject({ verdict, nudges: coming, weeks: past.length, many: [] });
  });

  test('too many for a student from the third message on, however loud the class', () => {
    expect(noiseOf(['p1', 'p1', 'p2'], [50])).toMatchObject({ verdict: 'usual', usual: 50 });
    expect(noiseOf(['p1', 'p1', 'p2', 'p1'], [50])).toMatchObject({ verdict: 'tooMany', many: ['p1'] });
  });
});

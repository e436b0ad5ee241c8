/** The coming days: as students went on in the last two weeks, and whether that is too noisy. */
import { describe, expect, test } from '@jest/globals';
import { evidenceAt } from '../../conditions/evidence.ts';
import { at, factsOf, item, person, ruleOf, type StorySpec } from '../../testing/build.ts';
import { itemOfCode, kindOfCode } from '../../activity/actCode.ts';
import { previewComingRounds } from './lookAhead.ts';
import { noiseOf } from '../advice/noise.ts';
import { repeatedFacts } from './repeatedDays.ts';

const NOW = at('2026-09-21T08:00');
const UNTIL = at('2026-10-05T08:00');
const PEOPLE = ['p1', 'p2'].map((id) => person(id));
const story: StorySpec = {
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
      previewComingRounds([rule], of, [], NOW, UNTIL).flatMap((d) => (d.outcome === 'sent' ? [d.student] : []));
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

describe('what is repeated, at its edges', () => {
  const from = at('2026-09-07T08:00');
  const repeated = (story: StorySpec, until = UNTIL) =>
    repeatedFacts(factsOf({ people: PEOPLE, ...story }), NOW, until);
  const after = (id: string, facts: ReturnType<typeof factsOf>) => visitsOf(id, facts);

  test('the last 14 days end now and do not hold the instant they begin at; what falls behind the span is left out', () => {
    const story: StorySpec = {
      events: [
        ['p1', 'visit', '2026-09-07T08:00'],
        ['p1', 'visit', '2026-09-07T08:01'],
        ['p1', 'visit', '2026-09-21T08:00'],
        // Known already, though it is still to come.
        ['p2', 'visit', '2026-09-22T08:00'],
      ],
    };
    expect(from).toBe(NOW - 14 * 24 * 3_600_000);
    expect(after('p1', repeated(story))).toEqual([at('2026-09-21T08:01'), at('2026-10-05T08:00')]);
    expect(after('p1', repeated(story, at('2026-10-05T07:59')))).toEqual([at('2026-09-21T08:01')]);
    expect(after('p2', repeated(story))).toEqual([at('2026-09-22T08:00')]);
  });

  test('each with its kind and item; who has left does nothing any more', () => {
    const gone = [...PEOPLE, person('gone', { active: false })];
    const next = repeated({
      people: gone,
      items: [item('page', { kind: 'page' }), item('quiz')],
      events: [
        ['p1', 'open', '2026-09-10T10:00', 'page'],
        ['p1', 'practice', '2026-09-11T10:00', 'quiz'],
        ['p1', 'signIn', '2026-09-12T10:00'],
        ['p1', 'complete', '2026-09-13T10:00', 'quiz'],
        ['gone', 'visit', '2026-09-12T10:00'],
      ],
    });
    const { history } = next;
    const log = history.logOf('p1');
    const events = Array.from({ length: log.length }, (_, i) => i)
      .filter((i) => log.times[i]! > NOW)
      .map((i) => [log.times[i], kindOfCode(log.codes[i]!), history.itemKeys.all[itemOfCode(log.codes[i]!)] ?? null]);
    expect(events).toEqual([
      [at('2026-09-24T10:00'), 'open', 'page'],
      [at('2026-09-25T10:00'), 'practice', 'quiz'],
      [at('2026-09-26T10:00'), 'signIn', null],
    ]);
    expect(after('gone', next)).toEqual([]);
  });

  test('work is done like the work that was due before it, first like first, in the order of their due instants', () => {
    const due = (...days: string[]) => days.map((d, i) => item(`w${i}`, { dueAt: at(`2026-${d}`) }));
    const next = repeated({
      items: [item('never'), ...due('09-10T12:00', '09-30T12:00', '09-17T12:00', '09-25T12:00', '10-04T12:00')],
      events: [
        ['p1', 'submit', '2026-09-10T11:00', 'w0'],
        ['p1', 'submit', '2026-09-17T18:00', 'w2'],
        ['p2', 'submit', '2026-09-17T11:00', 'w2'],
      ],
    });
    // By hand: Sep 25 and Oct 4 like Sep 10, an hour before; Sep 30 like Sep 17, six hours late for p1, an hour before for p2.
    expect(after('p1', next)).toEqual([at('2026-09-25T11:00'), at('2026-09-30T18:00'), at('2026-10-04T11:00')]);
    expect(after('p2', next)).toEqual([at('2026-09-30T11:00')]);
  });

  test('work due just now was due, work due at the end of the span is, and later work is not', () => {
    const next = (dueAt: string, until = UNTIL) =>
      after(
        'p1',
        repeated(
          {
            items: [item('a', { dueAt: NOW }), item('b', { dueAt: at(dueAt) })],
            events: [['p1', 'submit', '2026-09-21T07:00', 'a']],
          },
          until,
        ),
      );
    expect(next('2026-10-05T08:00')).toEqual([at('2026-10-05T07:00')]);
    expect(next('2026-10-05T08:01')).toEqual([]);
    expect(next('2026-10-05T08:00', at('2026-10-05T07:59'))).toEqual([]);
    // What fell due just 14 days ago is out of the span.
    const old = repeated({
      items: [item('a', { dueAt: from }), item('b', { dueAt: at('2026-09-28T08:00') })],
      events: [['p1', 'submit', '2026-09-07T07:00', 'a']],
    });
    expect(after('p1', old)).toEqual([]);
  });

  test('what was turned in just now is done', () => {
    const next = repeated({
      items: [item('a', { dueAt: at('2026-09-14T12:00') }), item('b', { dueAt: at('2026-09-23T12:00') })],
      events: [
        ['p1', 'submit', '2026-09-21T08:00', 'a'],
        ['p2', 'submit', '2026-09-14T12:00', 'a'],
        ['p2', 'submit', '2026-09-21T08:00', 'b'],
      ],
    });
    // Nearly seven days late.
    expect(after('p1', next)).toEqual([at('2026-09-30T08:00')]);
    expect(after('p2', next)).toEqual([]);
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

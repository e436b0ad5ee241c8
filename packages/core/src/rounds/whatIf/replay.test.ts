import { describe, expect, test } from '@jest/globals';
import { at, factsOf, person, ruleOf } from '../../testing/build.ts';
import { formatInstant } from '../../time/instant.ts';
import { NudgeLog } from '../decide/log.ts';
import { nudgesInParts, replay, replayInParts, roundsOf } from './replay.ts';
import { runWhole, within, type WorkInParts } from '../../time/inParts.ts';

const day = (t: number | null) => (t === null ? null : formatInstant(t, 'America/New_York').slice(5, 16));
const daily = (time: string) => ({ start: `2026-08-31T${time}`, rrule: 'FREQ=DAILY' });

describe('a computation in parts', () => {
  function* parts(): WorkInParts<string> {
    yield 0.5;
    yield;
    yield 1;
    return 'done';
  }

  test('says which share of the whole is done, where it says one', () => {
    const run = within(parts(), 0.2, 0.6);
    const said = [];
    let part = run.next();
    for (; !part.done; part = run.next()) said.push(part.value);
    expect(said.map((s) => (s === undefined ? s : Number(s.toFixed(9))))).toEqual([0.4, undefined, 0.6]);
    expect(part.value).toBe('done');
    expect(runWhole(parts())).toBe('done');
  });

  test('a replay is a part for each of its rounds, up to the whole', () => {
    const shares = [...replayInParts([ruleOf()], factsOf(), { until: at('2026-09-03T12:00') })];
    expect(shares).toEqual([0.25, 0.5, 0.75, 1]);
  });
});

test('rules that look at one instant share a round, and rounds come in order, both ends of the span included', () => {
  const late = ruleOf({ id: 'late', rhythm: daily('20:00') });
  const early = ruleOf({ id: 'early', rhythm: daily('09:30') });
  const span = { from: at('2026-09-01T20:00'), until: at('2026-09-03T09:30') };
  expect(
    roundsOf([late, ruleOf(), early], factsOf(), span).map((r) => [day(r.at), ...r.rules.map((x) => x.id)]),
  ).toEqual([
    ['09-01T20:00', 'late'],
    ['09-02T09:30', 'away', 'early'],
    ['09-02T20:00', 'late'],
    ['09-03T09:30', 'away', 'early'],
  ]);
});

describe('[R9] a nudge that leaves later', () => {
  // Decided at 22:00, it leaves at 7:00; the next round is at 7:00, too, or at noon.
  const facts = factsOf({
    people: [person('p1'), person('p2')],
    settings: { quietHours: { from: '21:00', to: '07:00' } },
    events: [['p2', 'visit', '2026-09-06T05:00']],
  });
  const night = (more: object = {}) => ruleOf({ rhythm: daily('22:00'), ...more });
  const outcomes = (rules: Parameters<typeof replay>[0], until: string, log?: NudgeLog) =>
    replay(rules, facts, { until: at(until) }, log).map((d) =>
      [d.rule, d.student, day(d.round), d.outcome, d.reason, day(d.sendAt)].join(' '),
    );

  test('is looked at a second time before a round of the same instant', () => {
    const morning = ruleOf({ id: 'morning', rhythm: daily('07:00'), repeat: { perTerm: 1 } });
    const log = new NudgeLog();
    expect(outcomes([night(), morning], '2026-09-06T07:00', log)).toEqual([
      'morning p1 09-05T07:00 sent  09-05T07:00',
      'morning p2 09-05T07:00 sent  09-05T07:00',
      'away p1 09-05T22:00 sent  09-06T07:00',
      'away p2 09-05T22:00 withdrawn noLongerTrue 09-06T07:00',
      'morning p1 09-06T07:00 withheld perTerm ',
    ]);
    expect(log.of('p1').map((n) => [n.rule, n.state])).toEqual([
      ['morning', 'sent'],
      ['away', 'sent'],
    ]);
    expect(log.of('p2').map((n) => [n.rule, n.state])).toEqual([
      ['morning', 'sent'],
      ['away', 'withdrawn'],
    ]);
  });

  test('is still queued at a round before it leaves', () => {
    const log = new NudgeLog();
    const midnight = ruleOf({ id: 'midnight', rhythm: daily('23:00') });
    outcomes([night({ repeat: {} }), midnight], '2026-09-05T23:00', log);
    expect(log.of('p1').map((n) => [n.rule, n.state])).toEqual([
      ['away', 'sent'],
      ['midnight', 'sent'],
    ]);
    // A rule with a nudge under way says so at its next round.
    const twice = ruleOf({ rhythm: { start: '2026-08-31T22:00', rrule: 'FREQ=HOURLY' }, repeat: {} });
    const span = { from: at('2026-09-05T22:00'), until: at('2026-09-06T00:00') };
    expect(
      replay([twice], facts, span)
        .filter((d) => d.student === 'p1')
        .map((d) => d.reason),
    ).toEqual([null, 'pending', 'pending']);
  });

  test('is settled once, and each of several at its own time', () => {
    const log = new NudgeLog();
    const hourly = ruleOf({
      rhythm: { start: '2026-08-31T22:00', rrule: 'FREQ=HOURLY' },
      repeat: { gap: { hours: 10 } },
    });
    replay([hourly], facts, { from: at('2026-09-05T22:00'), until: at('2026-09-07T12:00') }, log);
    expect(log.of('p1').map((n) => [day(n.round), n.state])).toEqual([
      ['09-05T22:00', 'sent'],
      ['09-06T08:00', 'sent'],
      ['09-06T18:00', 'sent'],
      ['09-07T04:00', 'sent'],
    ]);
  });

  test('is settled at the end of the span, too', () => {
    const log = new NudgeLog();
    expect(outcomes([night()], '2026-09-05T22:00', log)).toEqual([
      'away p1 09-05T22:00 sent  09-06T07:00',
      'away p2 09-05T22:00 withdrawn noLongerTrue 09-06T07:00',
    ]);
    expect([log.of('p1')[0]!.state, log.of('p2')[0]!.state]).toEqual(['sent', 'withdrawn']);
  });
});

describe('a replay of nudges alone', () => {
  const facts = (quietHours: object | null, budget: object | null) =>
    factsOf({
      people: [person('p1'), person('p2', { paused: true }), person('p3', { email: null }), person('p4')],
      settings: { quietHours, budget } as never,
      events: [
        ['p1', 'visit', '2026-09-12T05:00'],
        ['p1', 'visit', '2026-09-20T05:00'],
        ['p4', 'visit', '2026-09-06T05:00'],
        ['p4', 'visit', '2026-09-08T05:00'],
      ],
    });
  const step = (days: number, more: object = {}) => ({
    after: { days },
    deliver: 'send',
    to: ['student'],
    wording: 'w',
    ...more,
  });

  test.each([
    ['once a spell', { repeat: { perSpell: 1 } }],
    ['twice a spell', { repeat: { perSpell: 2 } }],
    ['once a term', { repeat: { perTerm: 1 } }],
    ['with a gap', { repeat: { gap: { days: 4 } } }],
    ['without a limit', { repeat: {} }],
    ['with three steps', { repeat: { perSpell: 1 }, steps: [step(0), step(3), step(8)] }],
    ['with a held second step', { repeat: { perSpell: 1 }, steps: [step(0), step(3, { deliver: 'hold' })] }],
    ['essential', { repeat: { perSpell: 1 }, essential: true }],
    ['late in the evening', { repeat: { perSpell: 1 }, rhythm: daily('22:00') }],
    ['several times a night', { repeat: { perSpell: 1 }, rhythm: { start: '2026-08-31T22:00', rrule: 'FREQ=HOURLY' } }],
  ])('%s: what a replay decides, without what limits keep back', (_name, draft) => {
    const until = at('2026-10-05T12:00');
    for (const quiet of [null, { from: '21:00', to: '07:00' }]) {
      for (const budget of [null, { count: 1, days: 5 }]) {
        const rules = [ruleOf(draft), ruleOf({ id: 'other', when: { measure: 'daysSinceVisit', is: '>=', value: 3 } })];
        const all = replay(rules, facts(quiet, budget), { until });
        const nudges = runWhole(nudgesInParts(rules, facts(quiet, budget), { until }));
        const plain = (of: typeof all) =>
          of.map(({ rule, student, round, step: k, outcome, sendAt }) => ({
            rule,
            student,
            round,
            k,
            outcome,
            sendAt,
          }));
        expect(plain(nudges)).toEqual(plain(all.filter((d) => d.outcome !== 'withheld')));
        expect(nudges.length).toBeGreaterThan(0);
      }
    }
  });
});

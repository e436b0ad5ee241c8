import { describe, expect, test } from '@jest/globals';
import { at, factsOf, person, ruleOf, type StorySpec } from '../../testing/build.ts';
import { fallingThrough, type FallingCase } from './fallingThrough.ts';
import { letThrough } from '../decide/letThrough.ts';
import { DAY } from '../../time/instant.ts';
import { NudgeLog, type LoggedNudge } from '../decide/log.ts';
import { runWhole } from '../../time/inParts.ts';

/** Away since Sep 1, 14:03, so that five days are over on Sep 6, 14:03; the rule looks every morning at 9:30. */
const away: StorySpec = { events: [['p1', 'visit', '2026-09-01T14:03']] };
const now = at('2026-09-21T12:00');
const nudge = (round: string, more: Partial<LoggedNudge> = {}): LoggedNudge => ({
  rule: 'away',
  student: 'p1',
  round: at(round),
  step: 0,
  state: 'sent',
  toStudent: true,
  ...more,
});
const budget = { budget: { count: 1, days: 14 } };

/** The rule's rounds as the log has them, every morning since a day. */
const ranSince = (first: string): FallingCase['ran'] =>
  new Map(
    ['away', 'ten'].map((rule) => [
      rule,
      Array.from({ length: 80 }, (_, i) => at(first) + i * DAY).filter((t) => t <= now),
    ]),
  );

function fallen(
  rule: Record<string, unknown>,
  story: StorySpec = away,
  logged: readonly LoggedNudge[] = [],
  more: Partial<FallingCase> = {},
) {
  const given = { bounced: new Map(), overdue: new Map(), now, ran: ranSince('2026-08-31T09:30'), ...more };
  const [first, ...rest] = runWhole(
    fallingThrough({ rules: [ruleOf(rule)], facts: factsOf(story), log: new NudgeLog(logged), ...given }),
  );
  expect(rest).toEqual([]);
  return first ?? null;
}

describe('a student falls through', () => {
  test('for want of an address, since the spell began', () => {
    const found = fallen({}, { ...away, people: [person('p1', { email: null })] });
    expect(found).toMatchObject({ reason: 'noAddress', since: at('2026-09-07T09:30'), lastNudge: null, rounds: 15 });
  });

  test('when mail to them came back, whatever the rule would send', () => {
    const bounced = new Map([['p1', at('2026-09-08T10:00')]]);
    expect(fallen({}, away, [nudge('2026-09-08T09:30')], { bounced })).toMatchObject({ reason: 'bounced' });
    const others = ruleOf({ steps: [{ deliver: 'send', to: ['address:a@b.example'], wording: 'w' }] });
    expect(fallen({ steps: others.steps }, away, [], { bounced })).toBeNull();
  });

  test('when the rule has sent all that it may and two weeks have passed', () => {
    const limit = (round: string, rule: Record<string, unknown> = {}) => fallen(rule, away, [nudge(round)]);
    expect(limit('2026-09-07T09:30')).toMatchObject({ reason: 'limit', limit: 'perSpell', rounds: 14 });
    expect(limit('2026-09-07T12:00')).toMatchObject({ since: at('2026-09-07T12:00') });
    expect(limit('2026-09-07T12:01')).toBeNull();
    expect(limit('2026-09-07T09:30', { repeat: { perTerm: 1 } })).toMatchObject({ limit: 'perTerm' });
    expect(limit('2026-09-07T09:30', { repeat: { gap: { days: 30 } } })).toBeNull();
  });

  test('with the latest nudge that counts, whatever the order of the log', () => {
    const more = { repeat: { perSpell: 2 } };
    const log = [nudge('2026-09-07T09:30'), nudge('2026-09-06T18:00'), nudge('2026-09-12T09:30', { state: 'failed' })];
    expect(fallen(more, away, log)).toMatchObject({ reason: 'limit', lastNudge: at('2026-09-07T09:30') });
    expect(fallen(more, away, log.toReversed())).toMatchObject({ lastNudge: at('2026-09-07T09:30'), rounds: 14 });
  });

  test('by a rule of which one step alone writes to them', () => {
    const mixed = [
      { deliver: 'send', to: ['address:a@b.example'], wording: 'w' },
      { after: { days: 30 }, deliver: 'send', to: ['student'], wording: 'w' },
    ];
    const bounced = new Map([['p1', at('2026-09-08T10:00')]]);
    expect(fallen({ steps: mixed }, away, [], { bounced })).toMatchObject({ reason: 'bounced' });
  });

  test('who is not in the audience falls through nothing, nor does who does not match', () => {
    const noMail = (id: string, more: object = {}) => person(id, { email: null, ...more });
    expect(
      fallen({ audience: { roles: ['student'], except: ['p1'] } }, { ...away, people: [noMail('p1')] }),
    ).toBeNull();
    expect(fallen({}, { events: [['p1', 'visit', '2026-09-20T14:03']], people: [noMail('p1')] })).toBeNull();
  });

  test('by a rule for new spells only, whose spell began before', () => {
    const from = (spellsFrom: string) => fallen({ spellsFrom });
    expect(from('2026-09-07T00:00:00-04:00')).toMatchObject({ reason: 'oldSpell', since: at('2026-09-07T09:30') });
    // A spell that begins just then is a new one.
    expect(from('2026-09-06T14:03:00-04:00')).toBeNull();
  });

  test('with the step that is due for them, and not by a rule that only tells others', () => {
    const steps = [0, 2].map((days) => ({ after: { days }, deliver: 'send', to: ['student'], wording: `w${days}` }));
    const sent = [nudge('2026-09-06T14:30'), nudge('2026-09-07T09:30', { step: 1 })];
    expect(fallen({ steps }, away, sent)).toMatchObject({ reason: 'limit', step: 1 });
    const alert = [{ deliver: 'send', to: ['address:a@b.example'], wording: 'w' }];
    expect(fallen({ steps: alert }, away, [nudge('2026-09-07T09:30', { toStudent: false })])).toBeNull();
  });

  test('not when another message that weighs as much has reached them in the meantime', () => {
    const own = nudge('2026-09-07T09:30');
    const other = (round: string, more: Partial<LoggedNudge> = {}) =>
      fallen({ weight: 'normal' }, away, [own, nudge(round, { rule: 'labs', ...more })]);
    expect(other('2026-09-10T09:30', { weight: 'strong' })).toBeNull();
    expect(other('2026-09-10T09:30', { rule: null })).toBeNull();
    expect(other('2026-09-10T09:30', { weight: 'light' })).toMatchObject({ reason: 'limit' });
    expect(other('2026-09-07T12:00')).toMatchObject({ reason: 'limit' });
    expect(other('2026-09-10T09:30', { state: 'withdrawn' })).toMatchObject({ reason: 'limit' });
  });

  test('not while a later step is to come', () => {
    const steps = [0, 30].map((days) => ({ after: { days }, deliver: 'send', to: ['student'], wording: 'w' }));
    expect(fallen({ steps }, away, [nudge('2026-09-07T09:30')])).toBeNull();
  });

  test('when other messages used up the budget for a week, and it says which', () => {
    const other = nudge('2026-09-18T09:30', { rule: 'labs' });
    expect(fallen({}, { ...away, settings: budget }, [other])).toMatchObject({ reason: 'budget', usedBy: other });
    expect(fallen({ weight: 'strong' }, { ...away, settings: budget }, [other])).toBeNull();
    const lately = { ...away, events: [['p1', 'visit', '2026-09-10T14:03']] as const, settings: budget };
    expect(fallen({}, lately, [other])).toBeNull();
  });

  test('when the rule looks for new spells only and theirs is older', () => {
    expect(fallen({ spellsFrom: '2026-09-10T00:00:00-04:00' })).toMatchObject({ reason: 'oldSpell' });
  });

  test('when they paused nudges, and when rounds did not run', () => {
    expect(fallen({}, { ...away, people: [person('p1', { paused: true })] })).toMatchObject({ reason: 'paused' });
    const overdue = new Map([['away', at('2026-09-19T09:30')]]);
    expect(fallen({}, away, [], { overdue })).toMatchObject({ reason: 'roundsMissed', rounds: 3 });
    expect(fallen({}, away, [], { overdue: new Map([['away', at('2026-09-21T09:30')]]) })).toBeNull();
  });

  test('not when the next round will write, when a message waits, or when the rule is light or off', () => {
    expect(fallen({})).toBeNull();
    expect(fallen({}, away, [nudge('2026-09-07T09:30', { state: 'held' })])).toBeNull();
    expect(fallen({ weight: 'light' }, away, [nudge('2026-09-07T09:30')])).toBeNull();
    expect(fallen({ weight: 'light' }, { ...away, people: [person('p1', { email: null })] })).not.toBeNull();
    expect(fallen({ status: 'paused' }, { ...away, people: [person('p1', { email: null })] })).toBeNull();
  });

  test('not before a round could have reached them', () => {
    const story = { ...away, people: [person('p1', { email: null })] };
    expect(fallen({}, story, [], { now: at('2026-09-07T09:29') })).toBeNull();
    const ran = new Map([['away', [at('2026-09-07T09:30')]]]);
    expect(fallen({}, story, [], { now: at('2026-09-07T09:30'), ran })).toMatchObject({ rounds: 1 });
  });
});

test('they come longest first, over all rules', () => {
  const people = [person('p1', { email: null }), person('p2', { email: null })];
  const facts = factsOf({ people, events: [...away.events!, ['p2', 'visit', '2026-09-08T14:03']] });
  const rules = [ruleOf({ id: 'ten', when: { measure: 'daysSinceVisit', is: '>=', value: 10 } }), ruleOf()];
  const none = new Map<string, number>();
  const found = runWhole(
    fallingThrough({
      rules,
      facts,
      log: new NudgeLog(),
      now,
      ran: ranSince('2026-08-31T09:30'),
      bounced: none,
      overdue: none,
    }),
  );
  expect(found.map((f) => [f.rule, f.student])).toEqual([
    ['away', 'p1'],
    ['ten', 'p1'],
    ['away', 'p2'],
    ['ten', 'p2'],
  ]);
});

test('[R10] rounds of the log alone count: a rule that did not run yet held nobody back', () => {
  const story = { ...away, people: [person('p1', { email: null })] };
  expect(fallen({}, story, [], { ran: new Map() })).toBeNull();
  const today = new Map([['away', [at('2026-09-21T09:30')]]]);
  expect(fallen({}, story, [], { ran: today })).toMatchObject({ rounds: 1, since: at('2026-09-21T09:30') });
});

describe('letting one through', () => {
  const through = (story: StorySpec = away, logged: readonly LoggedNudge[] = [], rule: Record<string, unknown> = {}) =>
    letThrough(ruleOf(rule), 'p1', factsOf(story), new NudgeLog(logged), now);

  test('passes limits and the budget, and says which', () => {
    const story = { ...away, settings: budget };
    const result = through(story, [nudge('2026-09-18T09:30')], { repeat: { perSpell: 1, gap: { days: 30 } } });
    expect(result).toMatchObject({ ok: true, passed: ['perSpell', 'gap', 'budget'] });
    expect(result.ok && result.decision).toMatchObject({ outcome: 'sent', step: 0, sendAt: now, round: now });
    expect(through()).toMatchObject({ ok: true, passed: [] });
  });

  test('does not pass a pause, a message on its way, a missing address, or a condition that does not hold', () => {
    expect(through({ ...away, people: [person('p1', { paused: true })] })).toEqual({ ok: false, why: 'paused' });
    expect(through({ ...away, people: [person('p1', { email: null })] })).toEqual({ ok: false, why: 'noAddress' });
    expect(through(away, [nudge('2026-09-18T09:30', { state: 'queued' })])).toEqual({ ok: false, why: 'pending' });
    expect(through({ events: [['p1', 'visit', '2026-09-20T14:03']] })).toEqual({ ok: false, why: 'noMatch' });
  });

  test('writes to the student alone, whomever the step writes to', () => {
    const contacts = [{ kind: 'advisor', name: 'B. Lund', email: 'lund@saltmarsh.example' }];
    const steps = [{ deliver: 'hold', to: ['student', 'contact:advisor'], wording: 'w' }];
    const result = through({ ...away, people: [person('p1', { contacts })] }, [], { steps });
    expect(result.ok && result.decision.to.map((to) => to.address)).toEqual(['p1@saltmarsh.example']);
  });

  test('[R8] waits for the end of quiet hours', () => {
    const story = { ...away, settings: { quietHours: { from: '11:00', to: '15:00' } } };
    const result = through(story);
    expect(result.ok && result.decision.sendAt).toBe(at('2026-09-21T15:00'));
  });
});

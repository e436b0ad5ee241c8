import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '../../course/course.ts';
import { HistoryFacts } from '../../measures/facts/facts.ts';
import { at, courseOf, factsOf, item, person, ruleOf } from '../../testing/build.ts';
import { formatInstant } from '../../time/instant.ts';
import { compareRounds } from './compare.ts';
import { decide } from '../decide/decide.ts';
import { exampleLine } from '../advice/example.ts';
import { limitsEffect } from './limitsEffect.ts';
import { NOTHING_LOGGED, NudgeLog, type LoggedNudge } from '../decide/log.ts';

const day = (t: number) => formatInstant(t, 'America/New_York').slice(5, 16);

describe('the example of a repeat limit', () => {
  const marks = (draft: Record<string, unknown>) =>
    exampleLine(ruleOf(draft), courseOf(), at('2026-09-07T00:00'))!.marks.map((m) =>
      [m.kind, m.step + 1, day(m.at), m.reason].filter(Boolean).join(' '),
    );
  const heard = (draft: Record<string, unknown>) => marks(draft).filter((m) => !m.startsWith('withheld'));

  test('[R6] once a spell: heard at the first round of each of the two spells', () => {
    // By hand: spells begin 3 hours before a round, on Sep 7 and, 9 days later and 5 of a new absence, on Sep 21.
    expect(heard({ repeat: { perSpell: 1 } })).toEqual(['heard 1 09-07T09:30', 'heard 1 09-21T09:30']);
    expect(marks({ repeat: { perSpell: 1 } })[1]).toBe('withheld 1 09-08T09:30 perSpell');
  });

  test('once a term, at most every 7 days, and every round', () => {
    expect(heard({ repeat: { perTerm: 1 } })).toEqual(['heard 1 09-07T09:30']);
    expect(heard({ repeat: { gap: { days: 7 } } })).toEqual([
      'heard 1 09-07T09:30',
      'heard 1 09-14T09:30',
      'heard 1 09-21T09:30',
    ]);
    expect(marks({ repeat: {} }).slice(0, 3)).toEqual([
      'heard 1 09-07T09:30',
      'heard 1 09-08T09:30',
      'heard 1 09-09T09:30',
    ]);
  });

  test('[R4] a held second step comes after its distance', () => {
    const step = { deliver: 'send', to: ['student'], wording: 'w' };
    const steps = [step, { ...step, after: { days: 5 }, deliver: 'hold' }];
    expect(heard({ repeat: { perSpell: 1 }, steps }).slice(0, 2)).toEqual([
      'heard 1 09-07T09:30',
      'held 2 09-12T09:30',
    ]);
  });

  test('spans both spells, the rounds in it, and three hours before the first', () => {
    const line = exampleLine(ruleOf(), courseOf(), at('2026-09-07T00:00'))!;
    expect(line.spells.map((s) => s.map(day))).toEqual([
      ['09-07T06:30', '09-16T06:30'],
      ['09-21T06:30', '09-27T06:30'],
    ]);
    expect([day(line.from), day(line.until)]).toEqual(['09-07T03:30', '09-27T06:30']);
    // Away for five days when the first spell begins.
    expect([line.story, day(line.lastSeen!)]).toEqual(['away', '09-02T06:30']);
    expect([line.rounds.length, day(line.rounds[0]!), day(line.rounds.at(-1)!)]).toEqual([
      20,
      '09-07T09:30',
      '09-26T09:30',
    ]);
    expect(line.marks.every((m) => m.at < line.until)).toBe(true);
  });

  test('is long enough for the last step and three rounds more, and for two rounds of a slow rhythm', () => {
    const step = { deliver: 'send', to: ['student'], wording: 'w' };
    const spells = (draft: Record<string, unknown>) =>
      exampleLine(ruleOf(draft), courseOf(), at('2026-09-07T00:00'))!.spells.map((s) => s.map(day));
    // 20 days and three rounds.
    expect(spells({ steps: [step, { ...step, after: { days: 20 } }] })[0]).toEqual(['09-07T06:30', '09-30T06:30']);
    const weekly = { start: '2026-08-31T09:30', rrule: 'FREQ=WEEKLY;BYDAY=MO' };
    expect(spells({ rhythm: weekly })).toEqual([
      ['09-07T06:30', '09-28T06:30'],
      ['10-03T06:30', '10-17T06:30'],
    ]);
  });

  test('a rule whose run is over is shown from the course’s start, and two rounds are enough', () => {
    const rhythm = { start: '2026-09-07T09:30', rrule: 'FREQ=DAILY', until: '2026-09-08' };
    const shown = (now: string) => exampleLine(ruleOf({ rhythm }), courseOf(), at(now))!.rounds.map(day);
    expect(shown('2026-09-01T00:00')).toEqual(['09-07T09:30', '09-08T09:30']);
    expect(shown('2026-10-01T00:00')).toEqual(['09-07T09:30', '09-08T09:30']);
    expect(shown('2026-09-08T00:00')).toEqual(['09-07T09:30', '09-08T09:30']);
    expect(exampleLine(ruleOf({ rhythm: { ...rhythm, start: '2027-09-07T09:30' } }), courseOf(), 0)).toBeNull();
  });

  test('[R7] keeps to the message budget of the course', () => {
    const twiceAWeek = { start: '2026-08-31T09:30', rrule: 'FREQ=WEEKLY;BYDAY=MO,TH' };
    const budget = { count: 1, days: 7 };
    const of = (settings: object) =>
      exampleLine(ruleOf({ repeat: {}, rhythm: twiceAWeek }), courseOf({ settings }), at('2026-09-07T00:00'))!
        .marks.filter((m) => m.kind === 'heard')
        .map((m) => day(m.at).slice(0, 5));
    expect(of({}).slice(0, 3)).toEqual(['09-07', '09-10', '09-14']);
    expect(of({ budget }).slice(0, 2)).toEqual(['09-07', '09-14']);
  });

  test('what is due is done by its due date, or not at all', () => {
    const when = { measure: 'submitted', item: 'q1', is: 'equals', value: false };
    const ends = (dueAt: string) => {
      const items = [item('q1', { dueAt: at(dueAt) })];
      const line = exampleLine(ruleOf({ when }), courseOf({ items }), at('2026-09-07T00:00'))!;
      return line.isOver ? day(line.spells[0]![1]) : null;
    };
    expect(ends('2026-09-12T23:59')).toBe('09-12T23:59');
    expect(ends('2026-10-12T23:59')).toBe('09-16T06:30');
    expect(ends('2026-09-01T23:59')).toBeNull();
  });

  test('ends with the rule: nothing happens after its last round', () => {
    const until = (day: string) => ({ start: '2026-09-07T09:30', rrule: 'FREQ=DAILY', until: day });
    const line = (last: string) => exampleLine(ruleOf({ rhythm: until(last) }), courseOf(), at('2026-09-07T00:00'))!;
    // The second absence would begin on Sep 21, and the first ends on the 16th.
    expect(line('2026-09-21').spells).toHaveLength(2);
    expect(line('2026-09-20')).toMatchObject({ isOver: true, spells: [[expect.anything(), expect.anything()]] });
    expect(line('2026-09-12').isOver).toBe(false);
  });

  test('a student of the example has contacts of all kinds and the course’s instructors', () => {
    const contact = (kind: string) => ({ kind, name: 'X', email: 'x@saltmarsh.example' });
    const course = courseOf({
      people: [
        person('p1', { contacts: [contact('advisor')] }),
        person('i1', { role: 'instructor' }),
        person('p2', { contacts: [contact('coach')] }),
      ],
    });
    const kinds = (to: string, of = course) =>
      exampleLine(ruleOf({ steps: [{ deliver: 'send', to: [to], wording: 'w' }] }), of, at('2026-09-07T00:00'))!
        .marks.filter((m) => m.kind !== 'withheld')
        .map((m) => m.kind);
    for (const to of ['student', 'instructor', 'contact:advisor', 'contact:coach'])
      expect([to, ...kinds(to)]).toEqual([to, 'heard', 'heard']);
    expect(kinds('contact:parent')).toEqual([]);
    expect(kinds('instructor', courseOf())).toEqual([]);
  });

  test('each kind of rule has a story that can happen', () => {
    const story = (when: object) => {
      const items = [item('q1', { dueAt: at('2026-10-01T00:00') })];
      const line = exampleLine(ruleOf({ when }), courseOf({ items }), at('2026-09-07T00:00'))!;
      return [line.story, line.spells.length, line.lastSeen];
    };
    expect(story({ measure: 'missing', is: '>=', value: 2 })).toEqual(['missing', 2, null]);
    // What is turned in stays turned in, and a due date comes once.
    expect(story({ measure: 'submitted', item: 'q1', is: 'equals', value: false })).toEqual(['notDone', 1, null]);
    expect(story({ measure: 'dueSoon', days: 1, is: '>=', value: 1 })).toEqual(['dated', 1, null]);
    expect(story({ measure: 'latestScore', is: '>', value: 95 })).toEqual(['graded', 2, null]);
    expect(story({ measure: 'posts', is: '>=', value: 3 })).toEqual(['other', 2, null]);
  });

  test('a rule for one section or role shows its limit like any other', () => {
    const audience = { roles: ['assistant'], sections: ['07'], except: ['example'] };
    expect(heard({ audience, status: 'draft' })).toEqual(['heard 1 09-07T09:30', 'heard 1 09-21T09:30']);
  });

  test('quiet hours delay what is heard, and what a spell’s end overtakes is not heard at all', () => {
    const quiet = courseOf({ settings: { quietHours: { from: '09:00', to: '12:00' } } });
    const line = exampleLine(ruleOf({ repeat: {} }), quiet, at('2026-09-07T00:00'))!;
    expect(day(line.marks[0]!.at)).toBe('09-07T12:00');
    const night = courseOf({ settings: { quietHours: { from: '09:00', to: '07:00' } } });
    const marks = exampleLine(ruleOf({ repeat: {} }), night, at('2026-09-07T00:00'))!.marks;
    // The nudge of Sep 15 would leave at 7:00 on the 16th, when the first spell is over.
    expect(marks.map((m) => day(m.at).slice(0, 5))).not.toContain('09-16');
  });

  test('one round is no example', () => {
    const rhythm = { start: '2026-09-07T09:30', rrule: 'FREQ=DAILY', until: '2026-09-07' };
    expect(exampleLine(ruleOf({ rhythm }), courseOf(), at('2026-09-01T00:00'))).toBeNull();
  });
});

const people = [person('p1'), person('p2')];
const facts = factsOf({ people, events: [['p2', 'visit', '2026-09-03T08:00']] });

describe('two versions of a rule at one round', () => {
  test('who would newly hear, who no more, and who is withheld for another reason', () => {
    const round = at('2026-09-07T09:30');
    const run = (draft: Record<string, unknown>, log: ConstructorParameters<typeof NudgeLog>[0] = []) =>
      decide([ruleOf(draft)], facts, new NudgeLog(log), round);
    const three = { when: { measure: 'daysSinceVisit', is: '>=', value: 3 } };
    const kinds = (...args: Parameters<typeof compareRounds>) =>
      compareRounds(...args).map((c) => `${c.student} ${c.kind}`);
    expect(kinds(run({}), run(three))).toEqual(['p2 hears']);
    expect(kinds(run(three), run({}))).toEqual(['p2 hearsNoMore']);
    expect(kinds(run({}), run({}))).toEqual([]);
    const held = { steps: [{ deliver: 'hold', to: ['student'], wording: 'w' }] };
    expect(kinds(run({}), run(held))).toEqual(['p1 hearsOtherwise']);
    const nudged = [
      { rule: 'away', student: 'p1', round: at('2026-09-06T09:30'), step: 0, state: 'sent', toStudent: true } as const,
    ];
    expect(kinds(run({}, nudged), run({ repeat: { gap: { days: 7 } } }, nudged))).toEqual(['p1 withheldOtherwise']);
    expect(kinds(run({}, nudged), run({}, nudged))).toEqual([]);
  });

  test('a nudge is another one by its step, time or recipients; new ones come first', () => {
    const round = at('2026-09-12T09:30');
    const coached = factsOf({
      people: ['p1', 'p2', 'p3', 'p4'].map((id) =>
        person(id, { contacts: [{ kind: 'coach', name: 'C', email: 'c@rowing.example' }] }),
      ),
    });
    const run = (draft: Record<string, unknown>, log: LoggedNudge[] = [], of = coached) =>
      decide([ruleOf(draft)], of, new NudgeLog(log), round);
    const kinds = (...args: Parameters<typeof compareRounds>) =>
      compareRounds(...args).map((c) => `${c.student} ${c.kind}`);
    const only = (student: string) => ({
      roles: ['student'],
      except: ['p1', 'p2', 'p3', 'p4'].filter((p) => p !== student),
    });
    const step = (to: string[], more = {}) => ({ deliver: 'send', to, wording: 'w', ...more });
    const p1 = { audience: only('p1') };
    expect(kinds(run(p1), run({ ...p1, steps: [step(['student', 'contact:coach'])] }))).toEqual(['p1 hearsOtherwise']);
    const quiet = new HistoryFacts(
      makeCourse({ ...coached.course, settings: { quietHours: { from: '09:00', to: '12:00' }, budget: null } }),
      coached.history,
    );
    expect(kinds(run(p1), run(p1, [], quiet))).toEqual(['p1 hearsOtherwise']);
    const first: LoggedNudge = {
      rule: 'away',
      student: 'p1',
      round: at('2026-09-06T09:30'),
      step: 0,
      state: 'sent',
      toStudent: true,
    };
    const two = { ...p1, repeat: {}, steps: [step(['student']), step(['student'], { after: { days: 2 } })] };
    expect(kinds(run({ ...p1, repeat: {} }, [first]), run(two, [first]))).toEqual(['p1 hearsOtherwise']);

    const before = [
      ...run({ audience: only('p2') }),
      ...run({ audience: only('p3'), repeat: { perSpell: 1 } }, [{ ...first, student: 'p3' }]),
    ];
    const after = [
      ...run({ audience: only('p3'), repeat: { gap: { days: 30 } } }, [{ ...first, student: 'p3' }]),
      ...run({ audience: only('p4') }),
    ];
    const otherwise = run({ ...p1, steps: [step(['contact:coach'])] });
    expect(kinds([...run(p1), ...before], [...otherwise, ...after])).toEqual([
      'p4 hears',
      'p2 hearsNoMore',
      'p1 hearsOtherwise',
      'p3 withheldOtherwise',
    ]);
    // Withheld on one side and not looked at on the other is another thing, too.
    expect(
      kinds(
        [],
        before.filter((d) => d.outcome === 'withheld'),
      ),
    ).toEqual(['p3 withheldOtherwise']);
  });
});

describe('what other limits of the course would have changed', () => {
  const rules = [ruleOf({ repeat: {} })];
  const span = { from: at('2026-09-05T00:00'), until: at('2026-09-09T00:00') };
  const under = (settings: object) =>
    new HistoryFacts(
      makeCourse({ ...facts.course, settings: { quietHours: null, budget: null, ...settings } }),
      facts.history,
    );

  test('a budget withholds what was sent; nothing of the same stands in the list', () => {
    const effect = limitsEffect(rules, facts, under({ budget: { count: 1, days: 14 } }), NOTHING_LOGGED, span);
    // p1 is heard of on Sep 5, 6, 7 and 8, p2 from Sep 8 on.
    expect(effect.before).toMatchObject({ sent: 5, overBudget: 0 });
    expect(effect.after).toMatchObject({ sent: 2, overBudget: 3 });
    expect(effect.changes.map((c) => [c.student, day(c.round), c.after?.reason])).toEqual([
      ['p1', '09-06T09:30', 'budget'],
      ['p1', '09-07T09:30', 'budget'],
      ['p1', '09-08T09:30', 'budget'],
    ]);
  });

  test('quiet hours move what was sent at once', () => {
    const effect = limitsEffect(
      rules,
      facts,
      under({ quietHours: { from: '09:00', to: '12:00' } }),
      NOTHING_LOGGED,
      span,
    );
    expect(effect.after).toMatchObject({ sent: 0, delayed: 5 });
    expect(day(effect.changes[0]!.after!.sendAt!)).toBe('09-05T12:00');
  });

  test('every way a nudge may come out is counted once', () => {
    const quiet = { quietHours: { from: '08:00', to: '07:00' } };
    const back = factsOf({
      people,
      events: [
        ['p1', 'visit', '2026-09-08T06:00'],
        ['p2', 'visit', '2026-09-03T08:00'],
      ],
    });
    const of = (settings: object) =>
      new HistoryFacts(
        makeCourse({ ...back.course, settings: { quietHours: null, budget: null, ...settings } }),
        back.history,
      );
    const both = [ruleOf(), ruleOf({ id: 'held', steps: [{ deliver: 'hold', to: ['student'], wording: 'w' }] })];
    const effect = limitsEffect(both, of({}), of(quiet), NOTHING_LOGGED, span);
    // p1 is away from Sep 5 on until the visit of Sep 8, at 6:00; p2 from Sep 8, 8:00, on.
    expect(effect.before).toEqual({ sent: 2, delayed: 0, held: 2, overBudget: 0, otherwiseWithheld: 4, withdrawn: 0 });
    expect(effect.after).toEqual({ sent: 0, delayed: 2, held: 2, overBudget: 0, otherwiseWithheld: 4, withdrawn: 0 });
    expect(effect.changes.map((c) => [c.rule, c.student, day(c.round)])).toEqual([
      ['away', 'p1', '09-05T09:30'],
      ['away', 'p2', '09-08T09:30'],
    ]);
    const every = limitsEffect([ruleOf({ repeat: {} })], of({}), of(quiet), NOTHING_LOGGED, span);
    // The nudge of Sep 7 would leave on Sep 8 at 7:00, an hour after p1 came back.
    expect(every.after).toMatchObject({ sent: 0, delayed: 3, withdrawn: 1, otherwiseWithheld: 0 });
    expect(every.changes.map((c) => [c.student, day(c.round), c.after!.outcome])).toEqual([
      ['p1', '09-05T09:30', 'sent'],
      ['p1', '09-06T09:30', 'sent'],
      ['p1', '09-07T09:30', 'withdrawn'],
      ['p2', '09-08T09:30', 'sent'],
    ]);
  });

  test('changes come in the order of their rounds, and the rounds of the span itself do not count as earlier', () => {
    const two = [ruleOf({ id: 'b', repeat: {} }), ruleOf({ id: 'a', repeat: {} })];
    const later: LoggedNudge = {
      rule: 'other',
      student: 'p1',
      round: span.from,
      step: 0,
      state: 'sent',
      toStudent: true,
    };
    const logged = { nudges: [later], replies: [] };
    const effect = limitsEffect(
      two,
      under({ budget: { count: 0, days: 7 } }),
      under({ budget: { count: 1, days: 14 } }),
      logged,
      span,
    );
    expect(effect.before).toMatchObject({ sent: 0, overBudget: 10 });
    expect(effect.after).toMatchObject({ sent: 2, overBudget: 8 });
    expect(effect.changes.map((c) => [c.rule, c.student, day(c.round)])).toEqual([
      ['b', 'p1', '09-05T09:30'],
      ['b', 'p2', '09-08T09:30'],
    ]);
    const rounds = limitsEffect(two, facts, under({ budget: { count: 0, days: 7 } }), NOTHING_LOGGED, span).changes.map(
      (c) => c.round,
    );
    expect(rounds).toEqual(rounds.toSorted((a, b) => a - b));
    expect(rounds).toHaveLength(10);
  });

  test('what was sent before the span counts', () => {
    const earlier = [
      { rule: 'other', student: 'p1', round: at('2026-09-01T09:30'), step: 0, state: 'sent', toStudent: true } as const,
    ];
    const effect = limitsEffect(
      rules,
      facts,
      under({ budget: { count: 1, days: 14 } }),
      { nudges: earlier, replies: [] },
      span,
    );
    expect(effect.after).toMatchObject({ sent: 1, overBudget: 4 });
  });
});

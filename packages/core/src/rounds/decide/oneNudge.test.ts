/** One nudge to one student: the second look before it leaves, and one let through although limits refuse it. */
import { describe, expect, test } from '@jest/globals';
import { at, factsOf, item, person, ruleOf } from '../../testing/build.ts';
import { letThrough } from './letThrough.ts';
import { NudgeLog, type LoggedNudge } from './log.ts';
import { secondLook } from './secondLook.ts';

const coach = { kind: 'coach', name: 'C. Oku', email: 'oku@rowing.example' };
const facts = factsOf({
  people: [
    person('p1'),
    person('left', { active: false }),
    person('mute', { email: null }),
    person('rests', { paused: true }),
    person('coached', { email: null, contacts: [coach] }),
    person('back'),
  ],
  items: [item('q1')],
  events: [['back', 'visit', '2026-09-18T08:00']],
  settings: { quietHours: { from: '21:00', to: '07:00' } },
});
// Away since the start of the term: five days are reached at 00:00 of Sep 5.
const SPELL = at('2026-09-05T00:00');
const now = at('2026-09-20T09:30');

describe('[R9] the second look', () => {
  const look = (student: string, more: Record<string, unknown> = {}, nudge: object = {}, t = now) =>
    secondLook({ rule: ruleOf(more), student, round: at('2026-09-07T23:00'), step: 0, ...nudge }, facts, t);

  test('lets leave what is still true', () => {
    expect(look('p1')).toBeNull();
  });

  test('a spell that began at the round itself is the one that was decided on', () => {
    expect(look('p1', {}, { round: SPELL })).toBeNull();
    expect(look('p1', {}, { round: SPELL - 1 })).toBe('noLongerTrue');
  });

  test.each([
    ['somebody who is not in the course', 'nobody', {}, 'inactive'],
    ['somebody who left', 'left', {}, 'inactive'],
    ['somebody who came back', 'back', {}, 'noLongerTrue'],
    ['somebody without an address', 'mute', {}, 'noAddress'],
    ['somebody who paused', 'rests', {}, 'paused'],
    ['somebody who paused, by an essential rule', 'rests', { essential: true }, null],
    ['a rule that is paused', 'p1', { status: 'paused' }, 'ruleOff'],
    ['a draft', 'p1', { status: 'draft' }, 'ruleOff'],
  ])('%s', (_name, student, more, why) => {
    expect(look(student, more)).toBe(why);
  });

  test('[R8] nothing leaves from the course’s end on', () => {
    const end = facts.course.calendar.end;
    expect([look('p1', {}, {}, end - 1), look('p1', {}, {}, end)]).toEqual([null, 'courseOver']);
  });

  test('a step to third parties needs their addresses, and the student’s only when it names the student', () => {
    const to = (...to: string[]) => ({ steps: [{ deliver: 'send', to, wording: 'w' }] });
    expect(look('coached', to('contact:coach'))).toBeNull();
    expect(look('coached', to('student', 'contact:coach'))).toBe('noAddress');
    expect(look('p1', to('contact:coach'))).toBe('noAddress');
  });

  test('a step that the rule has no more is read as its last', () => {
    const steps = [
      { deliver: 'send', to: ['student'], wording: 'a' },
      { deliver: 'send', to: ['contact:coach'], wording: 'b' },
    ];
    expect(look('p1', { steps }, { step: 7 })).toBe('noAddress');
    expect(look('p1', { steps }, { step: 0 })).toBeNull();
  });
});

describe('a nudge let through', () => {
  const past = (more: Partial<LoggedNudge> = {}): LoggedNudge => ({
    rule: 'away',
    student: 'p1',
    round: at('2026-09-18T09:30'),
    step: 0,
    state: 'sent',
    toStudent: true,
    ...more,
  });
  const through = (student: string, more: Record<string, unknown> = {}, log: LoggedNudge[] = [past()], t = now) =>
    letThrough(ruleOf(more), student, facts, new NudgeLog(log), t);

  test('passes the limits that spare messages, says which, and goes to the student alone', () => {
    const steps = [{ deliver: 'send', to: ['student', 'instructor', 'address:desk@saltmarsh.example'], wording: 'w' }];
    const gap = { repeat: { perSpell: 1, gap: { days: 7 } }, steps };
    expect(through('p1', gap)).toMatchObject({
      ok: true,
      passed: ['perSpell', 'gap'],
      decision: { outcome: 'sent', sendAt: now, spellStart: SPELL, to: [{ address: 'p1@saltmarsh.example' }] },
    });
    const one = through('p1', gap);
    expect(one.ok && one.decision.to).toHaveLength(1);
  });

  test.each([
    ['somebody who is not in the course', 'nobody', {}, 'noMatch'],
    ['somebody outside the audience', 'p1', { audience: { roles: ['student'], except: ['p1'] } }, 'noMatch'],
    ['somebody who left', 'left', {}, 'noMatch'],
    ['somebody who came back', 'back', {}, 'noMatch'],
    [
      'somebody for whom no step is due',
      'p1',
      { steps: [{ after: { days: 90 }, deliver: 'send', to: ['student'], wording: 'w' }] },
      'noMatch',
    ],
    ['somebody without an address', 'mute', {}, 'noAddress'],
    [
      'somebody without an address whose coach has one',
      'coached',
      { steps: [{ deliver: 'send', to: ['contact:coach'], wording: 'w' }] },
      'noAddress',
    ],
    ['somebody who paused', 'rests', {}, 'paused'],
  ])('is refused for %s', (_name, student, more, why) => {
    expect(through(student, more, [])).toEqual({ ok: false, why });
  });

  test('is refused while another of the rule waits', () => {
    expect(through('p1', {}, [past({ state: 'held' })])).toEqual({ ok: false, why: 'pending' });
  });

  test('[R8] waits for an open hour, and none is left after the course', () => {
    expect(through('p1', {}, [], at('2026-09-20T22:00'))).toMatchObject({
      ok: true,
      decision: { sendAt: at('2026-09-21T07:00') },
    });
    const last = facts.course.calendar.end;
    expect(through('p1', {}, [], last - 1)).toEqual({ ok: false, why: 'courseOver' });
    const open = factsOf({ people: [person('p1')] });
    const at1 = (t: number) => letThrough(ruleOf(), 'p1', open, new NudgeLog(), t).ok;
    expect([at1(last - 1), at1(last)]).toEqual([true, false]);
  });
});

import { describe, expect, test } from '@jest/globals';
import { courseOf, at } from '../testing/build.ts';
import { DAY } from '../time/instant.ts';
import { cameOfIt, type SentOutcome } from './cameOfIt.ts';
import { whatIsKnown, type WithheldSpell } from './timeToReturn.ts';

const START = at('2026-09-07T09:00');
const NOW = START + 30 * DAY;
const sent = (student: string, more: Partial<SentOutcome> = {}): SentOutcome => ({
  rule: 'away',
  step: 0,
  wording: 'hello',
  student,
  variant: 0,
  sentAt: START,
  canReturn: true,
  returned: false,
  replied: false,
  act: null,
  ...more,
});
const known = (all: readonly SentOutcome[]) =>
  whatIsKnown(
    courseOf({}),
    NOW,
    all.map((s) => ({ student: s.student, start: s.sentAt })),
  );
const told = (all: readonly SentOutcome[], by: Parameters<typeof cameOfIt>[1], spells: WithheldSpell[] = []) =>
  cameOfIt(all, by, known(all), new Map([['away', spells]]));

describe('what came of it', () => {
  const back = { returned: true, act: START + 2 * DAY };
  const all = [
    sent('p1', back),
    sent('p2', { variant: 1 }),
    sent('p3', { step: 1, replied: true }),
    sent('p4', { rule: null, wording: 'own', canReturn: false }),
    sent('p5', { rule: 'other', variant: 1, ...back }),
  ];

  test('is told by what one asks for, each with its own whole', () => {
    expect(told(all, 'rule').map((l) => [l.rule, l.result.sent, l.time.returned])).toEqual([
      ['away', 3, 1],
      [null, 1, 0],
      ['other', 1, 1],
    ]);
    expect(told(all, 'step').map((l) => [l.rule, l.step, l.result.sent])).toEqual([
      ['away', 0, 2],
      ['away', 1, 1],
      [null, 0, 1],
      ['other', 0, 1],
    ]);
    expect(told(all, 'wording').map((l) => [l.wording, l.result.sent])).toEqual([
      ['hello', 4],
      ['own', 1],
    ]);
    expect(told(all, 'text').map((l) => [l.wording, l.text, l.result.returns?.count ?? null])).toEqual([
      ['hello', 0, 1],
      ['hello', 1, 1],
      ['own', 0, null],
    ]);
  });

  test('steps and texts follow each other within their rule or wording', () => {
    const mixed = [sent('p1', { variant: 1 }), sent('p2', { wording: 'own' }), sent('p3'), sent('p4', { step: 1 })];
    expect(told(mixed, 'text').map((l) => [l.wording, l.text])).toEqual([
      ['hello', 0],
      ['hello', 1],
      ['own', 0],
    ]);
    const steps = [sent('p1', { step: 1 }), sent('p2', { rule: 'other' }), sent('p3')];
    expect(told(steps, 'step').map((l) => [l.rule, l.step])).toEqual([
      ['away', 0],
      ['away', 1],
      ['other', 0],
    ]);
  });

  test('a nudge that no act can answer has no clock, and its replies count', () => {
    const own = told(all, 'rule')[1]!;
    expect(own.time).toMatchObject({ nudges: 0, curve: [] });
    expect(own.result.returns).toBeNull();
    expect(told(all, 'rule')[0]!.result.replies).toMatchObject({ count: 1, of: 3 });
  });

  test('[O2] a later nudge of any line ends what is known of an earlier one', () => {
    const two = [
      sent('p1', { act: START + 5 * DAY, returned: true }),
      sent('p1', { rule: 'other', sentAt: START + DAY }),
    ];
    expect(told(two, 'rule')[0]!.time).toMatchObject({ nudges: 1, curve: [] });
  });

  test('[O3] spells that were held back stand beside their own rule alone', () => {
    const spell = { student: 'p9', start: START, reason: 'budget', act: START + DAY, sent: [] };
    const [away, , other] = told(all, 'rule', [spell]);
    expect(away!.comparison).toMatchObject({ spells: 1, reasons: { budget: 1 } });
    expect(other!.comparison).toMatchObject({ spells: 0 });
    expect(told(all, 'step', [spell])[0]!.comparison).toBeNull();
  });
});

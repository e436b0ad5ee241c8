/** A decision as it is written: with all that it reads from what it shares with others. */
import { expect, test } from '@jest/globals';
import { at, factsOf, person, ruleOf } from '../../testing/build.ts';
import { decide } from './decide.ts';
import { written } from './decision.ts';
import { NudgeLog } from './log.ts';

const now = at('2026-09-08T11:11');
const decided = (paused: boolean) =>
  decide(
    [ruleOf()],
    factsOf({ people: [person('p1', { paused })], events: [['p1', 'visit', '2026-09-01T14:03']] }),
    new NudgeLog(),
    now,
  ).map(written);

test('one to send says whose, of which rule, when, to whom and why', () => {
  expect(decided(false)).toMatchObject([
    {
      ...{ rule: 'away', student: 'p1', round: now, step: 0, spellStart: at('2026-09-06T14:03') },
      ...{ outcome: 'sent', reason: null, sendAt: now, to: [{ kind: 'student', address: 'p1@saltmarsh.example' }] },
      evidence: [{ verdict: true }],
    },
  ]);
});

test('[R6] one that is held back goes to nobody', () => {
  expect(decided(true)).toMatchObject([{ outcome: 'withheld', reason: 'paused', sendAt: null, to: [] }]);
});

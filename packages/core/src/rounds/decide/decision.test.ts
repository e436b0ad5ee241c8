import { expect, test } from '@jest/globals';
import { at, factsOf, person, ruleOf } from '../../testing/build.ts';
import { decide } from './decide.ts';
import { explained, withdrawn, type SentDecision } from './decision.ts';
import { NudgeLog } from './log.ts';

const now = at('2026-09-08T11:11');
const factsWith = (paused: boolean) =>
  factsOf({ people: [person('p1', { paused })], events: [['p1', 'visit', '2026-09-01T14:03']] });
const decided = (paused: boolean) => decide([ruleOf()], factsWith(paused), new NudgeLog(), now)[0]!;

test('one to send says whose, of which rule, when and to whom; why is read beside it', () => {
  const sent = {
    rule: 'away',
    student: 'p1',
    round: now,
    step: 0,
    spellStart: at('2026-09-06T14:03'),
    outcome: 'sent',
    reason: null,
    sendAt: now,
    to: [{ kind: 'student', address: 'p1@saltmarsh.example' }],
  };
  expect(decided(false)).toMatchObject(sent);
  expect(explained(decided(false), ruleOf(), factsWith(false))).toMatchObject({
    ...sent,
    evidence: [{ measure: 'daysSinceVisit', value: 6, verdict: true }],
  });
});

test('[R6] one that is held back goes to nobody', () => {
  expect(decided(true)).toMatchObject({ outcome: 'withheld', reason: 'paused', sendAt: null, to: [] });
});

test('[R9] withdrawn at its second look, it is the same nudge with a reason', () => {
  const sent = decided(false) as SentDecision;
  expect(withdrawn(sent, 'inactive')).toEqual({ ...sent, outcome: 'withdrawn', reason: 'inactive' });
  expect(sent).toMatchObject({ outcome: 'sent', reason: null });
});

import { expect, test } from '@jest/globals';
import { at, courseOf, person } from '../../testing/build.ts';
import { decideByHand, type HandCase } from './byHand.ts';
import { NudgeLog, type LoggedNudge } from './log.ts';

const imani = person('p1', { email: 'imani@saltmarsh.example' });
const now = at('2026-10-26T10:00');
const nudge = (more: Partial<LoggedNudge>): LoggedNudge => ({
  rule: null,
  student: 'p1',
  round: at('2026-10-25T10:00'),
  step: 0,
  state: 'sent',
  toStudent: true,
  ...more,
});
function decide(more: Partial<HandCase> = {}, who = imani, nudges: LoggedNudge[] = []) {
  const settings = { quietHours: { from: '21:00', to: '07:00', days: [] }, budget: { count: 1, days: 7 } };
  const course = courseOf({ people: [who], settings });
  const c: HandCase = {
    course,
    log: new NudgeLog(nudges),
    to: ['student'],
    passBudget: false,
    notBefore: now,
    now,
    ...more,
  };
  return decideByHand(who, c);
}

test('[R10] a nudge by hand has budget, pause, quiet hours and address alone', () => {
  expect(decide()).toMatchObject({ outcome: 'sent', sendAt: now, passedBudget: false });
  expect(decide({ notBefore: at('2026-10-26T22:00') })).toMatchObject({ sendAt: at('2026-10-27T07:00') });
  expect(decide({}, { ...imani, paused: true })).toEqual({ outcome: 'withheld', reason: 'paused' });
  expect(decide({}, { ...imani, active: false })).toEqual({ outcome: 'withheld', reason: 'inactive' });
  expect(decide({}, { ...imani, email: null })).toEqual({ outcome: 'withheld', reason: 'noAddress' });
  expect(decide({ notBefore: at('2027-01-01T10:00') })).toEqual({ outcome: 'withheld', reason: 'courseOver' });
});

test('[R7] only strong nudges and those by hand use up its budget, and the instructor may pass it', () => {
  const reason = (nudges: LoggedNudge[]) => decide({}, imani, nudges);
  expect(reason([nudge({})])).toEqual({ outcome: 'withheld', reason: 'budget' });
  expect(reason([nudge({ rule: 'r', weight: 'normal' })])).toMatchObject({ outcome: 'sent' });
  expect(reason([nudge({ rule: 'r', weight: 'strong' })])).toMatchObject({ outcome: 'withheld' });
  expect(reason([nudge({ round: at('2026-10-19T10:00') })])).toMatchObject({ outcome: 'sent' });
  expect(decide({ passBudget: true }, imani, [nudge({})])).toMatchObject({ outcome: 'sent', passedBudget: true });
});

test('[R7] what does not write to the student passes the budget', () => {
  const contact = { kind: 'advisor', name: 'B. Lund', email: 'lund@saltmarsh.example' };
  const who = { ...imani, contacts: [contact] };
  expect(decide({ to: ['contact:advisor'] }, who, [nudge({})])).toMatchObject({ outcome: 'sent', passedBudget: false });
});

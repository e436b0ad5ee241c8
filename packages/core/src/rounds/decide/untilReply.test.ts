/** [R6] A rule that stops at a reply: `untilReply`. */
import { expect, test } from '@jest/globals';
import { at, factsOf, ruleOf } from '../../testing/build.ts';
import { repeatParts } from '../../rules/sentence.ts';
import { replay } from '../whatIf/replay.ts';
import { decide } from './decide.ts';
import { NudgeLog, type Reply } from './log.ts';
import { secondLook } from './secondLook.ts';

// Away since Sep 1: the spell starts Sep 6, 14:03.
const facts = factsOf({ events: [['p1', 'visit', '2026-09-01T14:03']] });
const sent = { rule: 'away', student: 'p1', round: at('2026-09-07T09:30'), step: 0, state: 'sent', toStudent: true };
const stopping = ruleOf({ repeat: { untilReply: true } });
const plain = ruleOf({ repeat: {} });
const reply = (when: string, rule: string | null = stopping.id): Reply => ({ student: 'p1', at: at(when), rule });
const now = at('2026-09-12T09:30');
const log = (...replies: Reply[]) => new NudgeLog([{ ...sent, state: 'sent', rule: stopping.id }], replies);
const decided = (rule: typeof plain, ...replies: Reply[]) => decide([rule], facts, log(...replies), now)[0];

test('a reply to it, within the spell, withholds what would follow', () => {
  expect(decided(stopping, reply('2026-09-08T10:00'))).toMatchObject({ outcome: 'withheld', reason: 'replied' });
  expect(decided(stopping, reply('2026-09-12T09:30'))).toMatchObject({ outcome: 'withheld', reason: 'replied' });
  expect(decided(plain, reply('2026-09-08T10:00'))).toMatchObject({ outcome: 'sent' });
});

test('a reply before the spell, after the round, or to another rule or a message by hand stops nothing', () => {
  for (const other of [
    reply('2026-09-06T14:02'),
    reply('2026-09-12T09:31'),
    reply('2026-09-08T10:00', 'another'),
    reply('2026-09-08T10:00', null),
  ])
    expect(decided(stopping, other)).toMatchObject({ outcome: 'sent' });
});

test('[R9] what was decided before the reply is withdrawn when it would leave, unless it is approved', () => {
  const nudge = { rule: stopping, student: 'p1', round: at('2026-09-12T09:30'), step: 0 };
  const answered = log(reply('2026-09-12T12:00'));
  expect(secondLook(nudge, facts, at('2026-09-12T18:00'), answered)).toBe('replied');
  expect(secondLook(nudge, facts, at('2026-09-12T11:59'), answered)).toBeNull();
  expect(secondLook(nudge, facts, at('2026-09-12T18:00'))).toBeNull();
});

test('a replay heeds the replies that came', () => {
  const span = { from: at('2026-09-12T00:00'), until: at('2026-09-14T23:59') };
  const outcomes = (rule: typeof plain) =>
    replay([rule], facts, span, log(reply('2026-09-13T10:00'))).map((d) => d.outcome);
  expect(outcomes(plain)).toEqual(['sent', 'sent', 'sent']);
  expect(outcomes(stopping)).toEqual(['sent', 'sent', 'withheld']);
});

test('the sentence says it', () => {
  const none = { perSpell: null, perTerm: null, gap: null };
  expect(repeatParts({ ...none, untilReply: true })).toEqual(['at every check', 'until they reply']);
  expect(repeatParts({ ...none, perTerm: 3, untilReply: true })).toEqual([
    'at most 3 times this term',
    'until they reply',
  ]);
  expect(ruleOf({ repeat: { untilReply: false } }).repeat).toEqual(none);
});

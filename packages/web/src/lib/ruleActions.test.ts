/** What is done with rules from the page: what is asked of the server, what is said, and what an undo takes back. */
import { describe, expect, test } from '@jest/globals';
import type { Rule } from '@zest-bell/core/rules';
import { ruleOf } from '../testing/rule.ts';
import type { RuleCard } from '@zest-bell/core/exchange';
import { hereOf } from '../testing/here.ts';
import { at } from '../testing/course.ts';
import { network } from '../testing/network.ts';
import { lastToast } from '../testing/toasts.ts';
import { archiveWithUndo, reorder, checkNow, saveWithUndo, setStatusWithUndo } from './ruleActions.ts';

const cardOf = (rule: Rule, version = 3): RuleCard =>
  ({ rule, version, nextRoundAt: at('2026-09-15T09:30') }) as unknown as RuleCard;
const quiet = ruleOf({ status: 'paused' });
const here = hereOf();

describe('a rule that is saved', () => {
  test('says when it looks next, and its undo brings the version before back, agreed to as it was', async () => {
    const changed = { ...quiet, name: 'Quiet for a week' };
    const asked = network({ 'PUT /courses/1/rules/quiet': { rule: cardOf(changed, 4) } });
    await saveWithUndo(here, changed, cardOf(quiet), { confirmed: true });
    expect(lastToast()).toMatchObject({
      title: 'Saved “Quiet for a week”.',
      description: 'Next check Tue Sep 15, 9:30 AM.',
    });
    await lastToast().press();
    expect(asked.map((a) => a.body)).toMatchObject([
      { version: 3, confirmed: true, rule: { name: 'Quiet for a week' } },
      { version: 4, confirmed: true, rule: { name: 'Quiet for five days' } },
    ]);
  });
});

describe('rules that are turned on or off', () => {
  test('say so, and each gets back what it had', async () => {
    const [one, other] = [cardOf(quiet), cardOf(ruleOf({ id: 'low', name: 'Low score', status: 'draft' }), 7)];
    const answer = [
      { rule: { ...one, version: 4 }, before: 'paused' },
      { rule: { ...other, version: 8 }, before: 'draft' },
    ];
    const asked = network({ 'POST /courses/1/rules/status': answer });
    await setStatusWithUndo(here, [one, other], 'on', { newSpellsOnly: true });
    expect(lastToast().title).toBe('2 rules: each is on.');
    await lastToast().press();
    expect(asked.map((a) => a.body)).toEqual([
      {
        status: 'on',
        newSpellsOnly: true,
        rules: [
          { rule: 'quiet', version: 3 },
          { rule: 'low', version: 7 },
        ],
      },
      { status: 'paused', confirmed: true, rules: [{ rule: 'quiet', version: 4 }] },
      { status: 'draft', confirmed: true, rules: [{ rule: 'low', version: 8 }] },
    ]);
  });

  test('that are off say that they send nothing', async () => {
    network({ 'POST /courses/1/rules/status': [{ rule: cardOf(quiet), before: 'on' }] });
    await setStatusWithUndo(here, [cardOf(quiet)], 'paused');
    expect(lastToast()).toMatchObject({
      title: '“Quiet for five days” is paused.',
      description: 'It sends nothing until you turn it on.',
    });
  });
});

describe('a rule that is rung now', () => {
  const ring = (heard: number, withheld: number) => {
    network({ 'POST /courses/1/rules/quiet/ring': { round: { heard, withheld }, sending: null } });
    return checkNow(here, cardOf(quiet), true);
  };

  test('says how many messages are on the way, and what limits kept back', async () => {
    await ring(4, 2);
    expect(lastToast()).toMatchObject({
      title: 'The rule ran: 4 messages on the way.',
      description: '2 held back by limits.',
    });
  });

  test('says when it nudged nobody', async () => {
    await ring(0, 0);
    expect(lastToast().title).toBe('The rule ran and nudged nobody.');
  });
});

test('a rule that is put away comes back as it was, and what was on is on again', async () => {
  const change = { rule: cardOf({ ...quiet, status: 'paused' }, 5), before: 'on' };
  const asked = network({
    'POST /courses/1/rules/quiet/archive': change,
    'POST /courses/1/rules/quiet/unarchive': change,
  });
  await archiveWithUndo(here, cardOf(quiet, 4));
  expect(lastToast()).toMatchObject({
    title: '“Quiet for five days” is in the archive.',
    description: 'It was on and is now paused.',
  });
  await lastToast().press();
  expect(asked.at(-1)!.body).toEqual({ version: 5, status: 'on', confirmed: true });
});

test('rules decide in the order in which they were put', async () => {
  const asked = network({ 'POST /courses/1/rules/order': undefined });
  await reorder(here, ['low', 'quiet']);
  expect(asked.map((a) => a.body)).toEqual([{ rules: ['low', 'quiet'] }]);
});

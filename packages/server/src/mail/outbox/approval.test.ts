import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { wordingKeyOf } from '@zest-bell/core/nudges';
import { CourseRow } from '../../course/entity.ts';
import { MailingRow } from '../byHand/entity.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { RuleRow } from '../../rules/entity.ts';
import { insertNudge } from '../../testing/queued.ts';
import { at, openStage, type TestStage } from '../../testing/stage.ts';
import { approve, dismiss, settleByHand } from './approval.ts';
import { unguarded } from '../../testing/unguarded.ts';

const NOW = at('2026-09-10T12:00');
let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);
const messages = () => em().find(MessageRow, {}, { orderBy: { id: 'asc' } });

/** What the instructor says about these messages, all at once. */
const say = (word: 'send' | 'dismiss', ...ids: number[]) =>
  inTransaction(stage.orm, async (inside) => {
    const rows = await inside.find(MessageRow, { id: { $in: ids } });
    const { sender } = await inside.findOneOrFail(CourseRow, { id: 1 });
    await (word === 'send' ? approve(asTx(inside), rows, sender, NOW) : dismiss(asTx(inside), rows, NOW));
  });

describe('held messages', () => {
  test('are sent or dismissed one by one, and their nudges follow', async () => {
    await insertNudge(asTx(em()), { state: 'held' }, [
      { heldFor: 'step' },
      { kind: 'address', address: 'coach@saltmarsh.example' },
    ]);
    await insertNudge(asTx(em()), { state: 'held' });
    await say('send', 1);
    await say('dismiss', 3);
    expect(await messages()).toMatchObject([
      { state: 'queued', sendAt: NOW, heldFor: null, settledAt: null },
      { state: 'held' },
      { state: 'dismissed', settledAt: NOW },
    ]);
    expect((await messages())[2]!.sendAt).toBeLessThan(NOW);
    expect((await em().find(NudgeRow, {}, { orderBy: { id: 'asc' } })).map((n) => n.state)).toEqual([
      'queued',
      'dismissed',
    ]);
  });

  test('of which one no longer waits are all left as they are', async () => {
    await insertNudge(asTx(em()), { state: 'held' });
    await insertNudge(asTx(em()), { state: 'queued' });
    for (const word of ['send', 'dismiss'] as const)
      await expect(say(word, 1, 2)).rejects.toMatchObject({ code: 'notHeld' });
    expect((await messages()).map((m) => m.state)).toEqual(['held', 'queued']);
  });
});

describe('sending one to an outside address is a yes to it', () => {
  const outside = [
    { kind: 'contact' as const, address: 'Aunt@Home.example' },
    { kind: 'contact' as const, address: 'mentor@saltmarsh.example' },
    { kind: 'student' as const, address: 'me@home.example' },
  ];
  const outsideOf = async () => (await em().findOneOrFail(RuleRow, { key: 'away' })).outside;

  test('which its rule keeps, once', async () => {
    const first = await insertNudge(asTx(em()), { state: 'held' }, outside);
    await em().nativeUpdate(RuleRow, { key: 'away' }, { outside: ['uncle@home.example'] });
    await say('send', ...first.messages);
    expect(await outsideOf()).toEqual(['uncle@home.example', 'aunt@home.example']);
    const second = await insertNudge(asTx(em()), { state: 'held' }, outside);
    await say('send', ...second.messages);
    expect(await outsideOf()).toEqual(['uncle@home.example', 'aunt@home.example']);
  });

  test('which its mailing keeps, and no other; a rule that is gone keeps nothing', async () => {
    for (const _ of [1, 2]) {
      await em().insert(MailingRow, {
        course: 1,
        at: NOW,
        by: 'Ada',
        rows: {},
        outside: [],
        sheet: null,
        wording: { id: 'x', name: 'x', purpose: 'support', subject: 'x', text: 'x' },
      });
    }
    const byHand = await insertNudge(asTx(em()), { state: 'held', rule: null, wording: wordingKeyOf(2) }, outside);
    const gone = await insertNudge(asTx(em()), { state: 'held', rule: 'gone' }, outside);
    const odd = await insertNudge(asTx(em()), { state: 'held', rule: null, wording: 'gentle' }, outside);
    await say('send', ...byHand.messages, ...gone.messages, ...odd.messages);
    expect((await em().find(MailingRow, {}, { orderBy: { id: 'asc' } })).map((m) => m.outside)).toEqual([
      [],
      ['aunt@home.example'],
    ]);
    expect(await outsideOf()).toEqual([]);
  });

  test('and a dismissed one is none', async () => {
    const { messages: ids } = await insertNudge(asTx(em()), { state: 'held' }, outside);
    await say('dismiss', ...ids);
    expect(await outsideOf()).toEqual([]);
  });
});

test('a message that is unclear has arrived or is sent again; one that failed is sent again; no other is either', async () => {
  for (const state of ['uncertain', 'uncertain', 'failed', 'failed', 'sent'] as const)
    await insertNudge(asTx(em()), { state }, [{ attempts: 2 }]);
  const settle = (id: number, as: 'arrived' | 'sendAgain') =>
    inTransaction(stage.orm, async (inside) =>
      settleByHand(asTx(inside), await inside.findOneOrFail(MessageRow, { id }), as, NOW),
    );
  await settle(1, 'arrived');
  await settle(2, 'sendAgain');
  await settle(3, 'sendAgain');
  await expect(settle(4, 'arrived')).rejects.toMatchObject({ code: 'notUncertain' });
  await expect(settle(5, 'sendAgain')).rejects.toMatchObject({ code: 'notUncertain' });
  expect(await messages()).toMatchObject([
    { state: 'sent', settledAt: NOW },
    { state: 'queued', sendAt: NOW },
    { state: 'queued', sendAt: NOW },
    { state: 'failed' },
    { state: 'sent', settledAt: null },
  ]);
});

// Runs on PostgreSQL too.
/** What is written of messages that were judged, and of those that were answered. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { retryDelay, type DeliveryOutcome } from '@zest-bell/core/nudges';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { insertNudge } from '../../testing/queued.ts';
import { at, openStage, type TestStage } from '../../testing/stage.ts';
import { TrialDrawRow } from '../../wording/trials/entity.ts';
import { writeFates, type ClaimedMessage } from './claim.ts';
import type { MessageVerdict, JudgedMessage } from './judge.ts';
import { putBack, writeOutcomes } from './outcomes.ts';
import { reserve } from './queue.ts';
import { unguarded } from '../../testing/unguarded.ts';

const NOW = at('2026-09-10T12:00');
let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);
const messages = () => em().find(MessageRow, {}, { orderBy: { id: 'asc' } });
const attempts = () => em().find(AttemptRow, {}, { orderBy: { id: 'asc' } });
const nudges = () => em().find(NudgeRow, {}, { orderBy: { id: 'asc' } });

const reserved = () =>
  inTransaction(stage.orm, (inside) =>
    reserve(asTx(inside), {
      worker: 'me',
      now: NOW,
      limit: 99,
      without: new Set(),
      stale: new Map(),
      waiting: [],
      room: () => Infinity,
    }),
  );

/** A message that was made, as far as its log row knows it. */
const leaves = (subject: string, more: Partial<Extract<MessageVerdict, { kind: 'leaves' }>> = {}): MessageVerdict => ({
  kind: 'leaves',
  composed: {
    mail: {
      from: { name: 'Dr. A. Lind', address: 'ada@saltmarsh.example' },
      replyTo: 'office@saltmarsh.example',
      to: { name: 'P1 Lind', address: 'p1@saltmarsh.example' },
      subject,
      text: 'Hello',
      html: '<p>Hello</p>',
      messageId: `<${subject}@zestbell.example>`,
      date: new Date(NOW),
      inReplyTo: null,
      pauseLink: null,
      envelopeFrom: null,
    },
    parcel: { wording: { wording: { files: [{ id: '1', name: 'map.pdf' }] } }, message: { blocks: [] } } as never,
    evidence: [],
  },
  variant: 0,
  draw: null,
  ...more,
});

const written = (fates: readonly JudgedMessage[], stopped: readonly number[] = []) =>
  inTransaction(stage.orm, (inside) =>
    writeFates(asTx(inside), fates, { worker: 'me', now: NOW, stopped: new Set(stopped) }),
  );

/** One message of its own nudge for each, reserved and judged so. */
async function judged(...fates: MessageVerdict[]): Promise<JudgedMessage[]> {
  for (const _ of fates) await insertNudge(asTx(em()));
  return (await reserved()).map((message, i) => ({ message, fate: fates[i]! }));
}

describe('what was judged', () => {
  test('gets the state of its fate, each alone, and no attempt that never was', async () => {
    const claimed = await written(
      await judged(
        { kind: 'withdrawn', reason: 'paused' },
        { kind: 'held', heldFor: 'outside' },
        { kind: 'broken', trouble: 'Fix the text.' },
        { kind: 'waits', until: NOW + 60_000 },
        { kind: 'withdrawn', reason: 'paused' },
      ),
    );
    expect(claimed).toEqual([]);
    expect(await messages()).toMatchObject([
      { state: 'withdrawn', attempts: 0, claimedBy: null, settledAt: NOW },
      { state: 'held', heldFor: 'outside', attempts: 0 },
      { state: 'failed', trouble: 'Fix the text.', attempts: 0 },
      { state: 'queued', sendAt: NOW + 60_000, attempts: 0, claimedBy: null },
      { state: 'withdrawn', attempts: 0 },
    ]);
    expect((await nudges()).map((n) => [n.state, n.reason])).toEqual([
      ['withdrawn', 'paused'],
      ['held', null],
      ['failed', null],
      ['queued', null],
      ['withdrawn', 'paused'],
    ]);
    expect(await attempts()).toEqual([]);
  });

  test('has its log row before it leaves, and its nudge the subject of its lead message', async () => {
    await insertNudge(asTx(em()), {}, [{}, { kind: 'contact', address: 'aunt@home.example' }]);
    await insertNudge(asTx(em()));
    await insertNudge(asTx(em()), {}, [{ kind: 'contact', address: 'coach@saltmarsh.example' }]);
    const subjects = ['first', 'about the first', 'second', 'second'];
    const variants = [1, 1, 2, 0];
    const all = (await reserved()).map((message, i) => ({
      message,
      fate: leaves(subjects[i]!, { variant: variants[i]! }),
    }));
    const claimed = await written(all);
    expect(claimed.map((c) => [c.message.id, c.attempt])).toEqual([
      [1, 1],
      [2, 2],
      [3, 3],
      [4, 4],
    ]);
    expect((await messages()).map((m) => [m.state, m.variant, m.attempts, m.claimedBy])).toEqual(
      variants.map((variant) => ['handing', variant, 1, 'me']),
    );
    expect((await nudges()).map((n) => [n.subject, n.lastAt])).toEqual([
      ['first', NOW],
      ['second', NOW],
      ['second', NOW],
    ]);
    const rows = await attempts();
    expect(rows[0]).toMatchObject({
      course: 1,
      message: 1,
      nudge: 1,
      at: NOW,
      outcome: 'handing',
      response: '',
      subject: 'first',
      messageId: '<first@zestbell.example>',
      recipientName: 'P1 Lind',
      address: 'p1@saltmarsh.example',
      fromAddress: 'ada@saltmarsh.example',
      replyTo: 'office@saltmarsh.example',
      body: 'Hello',
      html: '<p>Hello</p>',
    });
    // Files are the student's, and nobody else's.
    expect(rows.map((r) => r.files)).toEqual([['map.pdf'], [], ['map.pdf'], []]);
  });

  test('of a course that was stopped goes back, unless its fate is another anyway', async () => {
    const all = await judged(leaves('one'), { kind: 'withdrawn', reason: 'paused' });
    expect(await written(all, [1])).toEqual([]);
    expect(await messages()).toMatchObject([
      { state: 'queued', attempts: 0, claimedBy: null },
      { state: 'withdrawn', attempts: 0 },
    ]);
    expect(await attempts()).toEqual([]);
  });

  test('and taken over by another process or settled meanwhile is no longer ours to send', async () => {
    const all = await judged(leaves('theirs'), leaves('settled'), leaves('ours'), { kind: 'broken', trouble: 'No.' });
    await em().nativeUpdate(MessageRow, { id: { $in: [1, 4] } }, { claimedBy: 'other' });
    await em().nativeUpdate(MessageRow, { id: 2 }, { state: 'uncertain' });
    expect((await written(all)).map((c) => c.mail.subject)).toEqual(['ours']);
    expect((await attempts()).map((a) => a.subject)).toEqual(['ours']);
    expect((await messages()).map((m) => [m.state, m.claimedBy])).toEqual([
      ['handing', 'other'],
      ['uncertain', 'me'],
      ['handing', 'me'],
      ['handing', 'other'],
    ]);
  });

  test('with a draw that another process made meanwhile is judged again, and the rest leaves', async () => {
    await em().insert(TrialDrawRow, { trial: 1, course: 1, place: 0, student: 'p9', text: 0, at: NOW });
    const draw = (place: number) => ({ draw: { trial: 1, place, text: 1 }, variant: 1 });
    const all = await judged(leaves('drawn before', draw(0)), leaves('without'));
    await insertNudge(asTx(em()), { student: 'p2' });
    const [second] = await reserved();
    const claimed = await written([...all, { message: second!, fate: leaves('drawn', draw(1)) }]);
    expect(claimed.map((c) => c.mail.subject)).toEqual(['without', 'drawn']);
    expect(await messages()).toMatchObject([
      { state: 'queued', attempts: 0, claimedBy: null, variant: null },
      { state: 'handing', variant: 0 },
      { state: 'handing', variant: 1 },
    ]);
    expect(await em().find(TrialDrawRow, {}, { orderBy: { place: 'asc' } })).toMatchObject([
      { place: 0, student: 'p9', text: 0 },
      { place: 1, student: 'p2', text: 1, course: 1, at: NOW },
    ]);
  });

  test('when nothing leaves, nothing is written', async () => {
    await em().insert(TrialDrawRow, { trial: 1, course: 1, place: 0, student: 'p9', text: 0, at: NOW });
    const all = await judged(leaves('drawn before', { draw: { trial: 1, place: 0, text: 1 } }));
    expect(await written(all)).toEqual([]);
    expect(await attempts()).toEqual([]);
    expect((await nudges()).map((n) => [n.subject, n.lastAt])).toEqual([[null, null]]);
    expect(await written([])).toEqual([]);
  });
});

describe('what was answered', () => {
  const LAST = Array.from({ length: 100 }, (_, i) => i + 1).find((n) => retryDelay(n) === null)!;
  const settle = (claimed: readonly ClaimedMessage[], answers: readonly DeliveryOutcome[]) =>
    inTransaction(stage.orm, (inside) =>
      writeOutcomes(
        asTx(inside),
        claimed.map((one, i) => ({ claimed: one, outcome: answers[i]! })),
        { worker: 'me', now: NOW + 1 },
      ),
    );

  test('stands for its message alone, and in its own log row', async () => {
    const claimed = await written(await judged(...['a', 'b', 'c', 'd', 'e', 'f'].map((s) => leaves(s))));
    await em().nativeUpdate(MessageRow, { id: 5 }, { attempts: LAST });
    const worn = { ...claimed[4]!, message: { ...claimed[4]!.message, attempts: LAST } };
    await settle(
      [...claimed.slice(0, 4), worn, claimed[5]!],
      [
        { kind: 'sent', response: '250 one' },
        { kind: 'permanent', response: '550 no' },
        { kind: 'unknown', response: 'the line fell' },
        { kind: 'transient', response: '450 later' },
        { kind: 'transient', response: '450 never' },
        { kind: 'sent', response: '250 six' },
      ],
    );
    expect(await messages()).toMatchObject([
      { state: 'sent', settledAt: NOW + 1 },
      { state: 'failed' },
      { state: 'uncertain' },
      { state: 'queued', attempts: 1, sendAt: NOW + 1 + retryDelay(1)!, claimedBy: null },
      { state: 'failed' },
      { state: 'sent' },
    ]);
    expect((await attempts()).map((a) => [a.outcome, a.response])).toEqual([
      ['sent', '250 one'],
      ['permanent', '550 no'],
      ['unknown', 'the line fell'],
      ['transient', '450 later'],
      ['transient', '450 never'],
      ['sent', '250 six'],
    ]);
  });

  test('about a message that somebody settled meanwhile stands in the log alone', async () => {
    const claimed = await written(await judged(leaves('a'), leaves('b')));
    await em().nativeUpdate(MessageRow, {}, { state: 'withdrawn' });
    await settle(claimed, [
      { kind: 'unknown', response: 'the line fell' },
      { kind: 'transient', response: '450 later' },
    ]);
    expect((await messages()).map((m) => m.state)).toEqual(['withdrawn', 'withdrawn']);
    expect((await attempts()).map((a) => a.outcome)).toEqual(['unknown', 'transient']);
  });

  test('when the mail server took nothing is no answer about a message', async () => {
    const claimed = await written(await judged(leaves('a')));
    await settle(claimed, [{ kind: 'unavailable', trouble: 'unreachable', response: 'ECONNREFUSED' }]);
    // As it was before the claim, behind those that wait longer, and the log knows nothing of it.
    expect(await messages()).toMatchObject([{ state: 'queued', attempts: 0, sendAt: NOW + 1, claimedBy: null }]);
    expect(await attempts()).toEqual([]);
  });

  test('is kept in at most 1,000 characters, with its lines and without control characters', async () => {
    const claimed = await written(await judged(leaves('a')));
    await settle(claimed, [{ kind: 'sent', response: `250-first\r\n250 \u0007last${'x'.repeat(2000)}` }]);
    const [row] = await attempts();
    expect(row!.response).toBe(`250-first \n250  last${'x'.repeat(980)}`);
  });
});

test('what was claimed and never handed over is as it was, due as it was or when it is told', async () => {
  const claimed = await written(await judged(leaves('a'), leaves('b'), leaves('c')));
  const due = claimed[0]!.message;
  const before = (await messages())[0]!.sendAt;
  const by = { worker: 'me', now: NOW };
  await inTransaction(stage.orm, async (inside) => {
    await putBack(asTx(inside), [], by);
    await putBack(asTx(inside), [claimed[0]!], by);
    await putBack(asTx(inside), [claimed[1]!], by, NOW + 9);
  });
  expect(await messages()).toMatchObject([
    { id: due.id, state: 'queued', attempts: 0, claimedBy: null, sendAt: before },
    { state: 'queued', attempts: 0, claimedBy: null, sendAt: NOW + 9 },
    { state: 'handing', attempts: 1, claimedBy: 'me', sendAt: before },
  ]);
  expect((await attempts()).map((a) => a.subject)).toEqual(['c']);
});

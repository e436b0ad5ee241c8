/** What was sent by hand and can be taken back: typed text is where it was, and nothing that was canceled goes unnoticed. */
import { beforeEach, describe, expect, test } from '@jest/globals';
import type { SendingAnswer } from '@zest-bell/core/exchange';
import { network, FakeRefusal } from '../testing/network.ts';
import { lastToast } from '../testing/toasts.ts';
import { useAllKept } from './useKept.ts';
import { loadSendings, sendAtOnce, track, undoSending, useSendings } from './sendings.ts';

const sending = (id: number, left = 10_000): SendingAnswer => ({
  id,
  course: 1,
  kind: 'write',
  words: '4 messages',
  left,
});
const waiting = () => useSendings.getState().waiting.map((w) => w.id);

beforeEach(() => {
  useSendings.setState({ waiting: [], restores: {} });
  useAllKept.setState({ kept: {} });
});

describe('what waits', () => {
  test('is what a request set off, once however often it is told, by this browser’s clock', () => {
    const now = Date.now();
    expect(track(null)).toBe(false);
    expect(track(sending(1))).toBe(true);
    track(sending(2, 4000));
    track(sending(1, 2000));
    expect(waiting()).toEqual([2, 1]);
    const [second] = useSendings.getState().waiting;
    expect(Math.round((second!.until - now) / 1000)).toBe(4);
  });

  test('is asked for after a reload', async () => {
    network({ 'GET /sendings': [sending(7), sending(8)] });
    await loadSendings();
    expect(waiting()).toEqual([7, 8]);
  });
});

describe('taken back', () => {
  test('the typed text is under the key of its draft again, and its page opens', async () => {
    const asked = network({ 'POST /sendings/5/undo': undefined });
    track(sending(5), { path: '/c/1/write?student=p1', drafts: { 'write 1': { text: 'Come by' } } });
    expect(await undoSending(5)).toBe('/c/1/write?student=p1');
    expect(useAllKept.getState().kept).toEqual({ 'write 1': { text: 'Come by' } });
    expect(waiting()).toEqual([]);
    expect(useSendings.getState().restores).toEqual({});
    expect(asked.map((a) => `${a.method} ${a.path}`)).toEqual(['POST /sendings/5/undo']);
    expect(lastToast().title).toBe('Taken back. Nothing was sent.');
  });

  test('too late, nothing is put back, and what became of it is asked', async () => {
    const gone = new FakeRefusal(409, { title: 'It has left already.', code: 'sendingGone' });
    const asked = network({ 'POST /sendings/5/undo': gone, 'GET /sendings/5': { waiting: 0, canceled: [] } });
    track(sending(5), { path: '/c/1/write', drafts: { 'write 1': 'text' } });
    expect(await undoSending(5)).toBeNull();
    expect(useAllKept.getState().kept).toEqual({});
    expect(waiting()).toEqual([]);
    expect(asked.map((a) => a.path)).toEqual(['/sendings/5/undo', '/sendings/5']);
    expect(lastToast().title).toBe('It has left already.');
  });
});

test('sent at once, it waits no more, and whoever was not written to is named', async () => {
  network({
    'POST /sendings/6/now': undefined,
    'GET /sendings/6': { waiting: 3, canceled: [{ name: 'Asta Lind', reason: 'paused' }] },
  });
  track(sending(6));
  await sendAtOnce(6);
  expect(waiting()).toEqual([]);
  expect(lastToast().title).toBe('Not sent: Asta Lind, paused by the student.');
});

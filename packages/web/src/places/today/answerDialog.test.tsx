/** An answer to a reply: typed once, kept until it is sent, and taken back with its words. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { InboxReply } from '@zest-bell/core/exchange';
import { useSendings } from '../../lib/sendings.ts';
import { useAllKept } from '../../lib/useKept.ts';
import { inPage } from '../../testing/inPage.tsx';
import { network, FakeRefusal } from '../../testing/network.ts';
import { lastToast } from '../../testing/toasts.ts';
import { AnswerDialog } from './AnswerDialog.tsx';

beforeEach(() => {
  useAllKept.setState({ kept: {} });
  useSendings.setState({ waiting: [], restores: {} });
});
afterEach(cleanup);

const reply = {
  id: 5,
  course: 1,
  name: 'Asta Lind',
  fromAddress: 'asta@home.example',
  subject: 'Re: A quiet week',
  text: 'I was ill.\nBack on Monday.',
  student: null,
  rule: null,
  isPaused: false,
  mayPause: true,
} as unknown as InboxReply;
const KEY = 'answer 1 5';
const kept = () => useAllKept.getState().kept;
const answer = () => screen.getByLabelText<HTMLTextAreaElement>('Your answer');
const send = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Send answer' });

function open(more: Partial<InboxReply> = {}) {
  const closed: number[] = [];
  inPage(<AnswerDialog reply={{ ...reply, ...more }} onClose={() => closed.push(1)} />);
  return { closed, user: userEvent.setup() };
}

test('says to whom it goes and what it answers, and sends nothing empty', async () => {
  const { user } = open();
  expect(screen.getByText('To asta@home.example, as an answer to “Re: A quiet week”')).toBeTruthy();
  expect(screen.getByText(/I was ill/)).toBeTruthy();
  expect(send().disabled).toBe(true);
  await user.type(answer(), '   ');
  expect(send().disabled).toBe(true);
});

test('that is closed half typed is there when it is opened again', async () => {
  const { user } = open();
  await user.type(answer(), 'Get well');
  cleanup();
  open();
  expect(answer().value).toBe('Get well');
});

test('that waits can be taken back to the page and the words it was', async () => {
  const sending = { id: 31, course: 1, kind: 'answer', words: '1 answer', left: 10_000 };
  const asked = network({ 'POST /courses/1/replies/5/answer': { sending } });
  const { closed, user } = open();
  await user.type(answer(), 'Get well');
  await user.click(send());
  await waitFor(() => expect(closed).toEqual([1]));
  expect(asked.map((a) => a.body)).toEqual([{ text: 'Get well' }]);
  expect(kept()).toEqual({});
  expect(useSendings.getState().restores[31]).toEqual({ path: '/c/1/today#replies', drafts: { [KEY]: 'Get well' } });
});

test('says whether rules go on, and pauses nudges with the answer when that is chosen', async () => {
  const asked = network({
    'POST /courses/1/edit': { change: 4 },
    'POST /courses/1/replies/5/answer': { sending: null },
  });
  const { closed, user } = open({ student: 'p1', rule: { name: 'Gone quiet', stops: false, steps: 2 } });
  expect(screen.getByText(/“Gone quiet” and all other rules go on for Asta Lind. Its later steps wait/)).toBeTruthy();
  await user.type(answer(), 'Get well');
  await user.selectOptions(screen.getByRole('combobox'), 'pause nudges until the end of the term');
  await user.click(send());
  await waitFor(() => expect(closed).toEqual([1]));
  expect(asked.filter((a) => a.method === 'POST').map((a) => a.body)).toEqual([
    { text: 'Get well' },
    { people: [{ id: 'p1', set: { paused: true } }], pausedUntil: 'term' },
  ]);
});

test('an answer that is refused pauses nobody', async () => {
  const refusal = new FakeRefusal(409, {
    title: 'Somebody has answered this reply already.',
    code: 'changedMeanwhile',
  });
  const asked = network({ 'POST /courses/1/replies/5/answer': refusal });
  const { user } = open({ student: 'p1' });
  await user.type(answer(), 'Get well');
  await user.selectOptions(screen.getByRole('combobox'), 'pause nudges until I resume them');
  await user.click(send());
  await waitFor(() => expect(lastToast().title).toBe('Somebody has answered this reply already.'));
  expect(asked.filter((a) => a.method === 'POST').map((a) => a.path)).toEqual(['/courses/1/replies/5/answer']);
});

test('who may not pause nudges is not offered it', () => {
  open({ student: 'p1', mayPause: false });
  expect(screen.getByText('Rules go on for Asta Lind.')).toBeTruthy();
  expect(screen.queryByRole('combobox')).toBeNull();
});

test('of a rule that stops at a reply, or of somebody who is paused, it says that', () => {
  open({ student: 'p1', rule: { name: 'Gone quiet', stops: true, steps: 1 } });
  expect(screen.getByText(/“Gone quiet” stops at this reply/)).toBeTruthy();
  cleanup();
  open({ student: 'p1', isPaused: true });
  expect(screen.getByText(/Nudges for Asta Lind are paused/)).toBeTruthy();
});

test('that left at once says so', async () => {
  network({ 'POST /courses/1/replies/5/answer': { sending: null } });
  const { user } = open();
  await user.type(answer(), 'Get well');
  await user.click(send());
  await waitFor(() => expect(lastToast().title).toBe('Your answer to Asta Lind is on its way.'));
});

test('that was answered elsewhere meanwhile keeps its words', async () => {
  const refusal = new FakeRefusal(409, {
    title: 'Somebody has answered this reply already.',
    code: 'changedMeanwhile',
  });
  network({ 'POST /courses/1/replies/5/answer': refusal });
  const { closed, user } = open();
  await user.type(answer(), 'Get well');
  await user.click(send());
  await waitFor(() => expect(lastToast().title).toBe('Somebody has answered this reply already.'));
  expect(closed).toEqual([]);
  expect([answer().value, kept()[KEY]]).toEqual(['Get well', 'Get well']);
});

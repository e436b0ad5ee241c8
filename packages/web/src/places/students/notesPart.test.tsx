/** Private notes: typed text stays until it is saved, and a note goes only when it is removed. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { at, course } from '../../testing/course.ts';
import { hereOf } from '../../testing/here.ts';
import { inPage } from '../../testing/inPage.tsx';
import { network, FakeRefusal } from '../../testing/network.ts';
import { lastToast } from '../../testing/toasts.ts';
import { NotesPart } from './NotesPart.tsx';

beforeEach(() => localStorage.clear());
afterEach(cleanup);

const notes = [{ id: 7, at: at('2026-09-10T15:00'), text: 'Prefers mornings' }];
const open = () => inPage(<NotesPart here={hereOf()} person={course.people[0]!} notes={notes} />);
const field = () => screen.getByLabelText<HTMLTextAreaElement>('A note about Asta. Only you see it.');

test('a note is saved, and the field is empty for the next', async () => {
  const asked = network({ 'POST /courses/1/students/p1/notes': undefined });
  open();
  const user = userEvent.setup();
  expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Save note' }).disabled).toBe(true);
  await user.type(field(), 'Called on Monday');
  await user.click(screen.getByRole('button', { name: 'Save note' }));
  await waitFor(() => expect(field().value).toBe(''));
  expect(asked.map((a) => a.body)).toEqual([{ text: 'Called on Monday' }]);
});

test('a note that the server does not take stays where it was typed, also after the page was left', async () => {
  network({ 'POST /courses/1/students/p1/notes': new FakeRefusal(503, { title: 'Try again later.', code: 'busy' }) });
  open();
  const user = userEvent.setup();
  await user.type(field(), 'Called on Monday');
  await user.click(screen.getByRole('button', { name: 'Save note' }));
  await waitFor(() => expect(lastToast().title).toBe('Try again later.'));
  cleanup();
  open();
  expect(field().value).toBe('Called on Monday');
});

test('one that stands is removed by its own button', async () => {
  const asked = network({ 'DELETE /courses/1/students/p1/notes/7': undefined });
  open();
  await userEvent.setup().click(screen.getByRole('button', { name: 'Remove the note “Prefers mornings”' }));
  await waitFor(() => expect(asked).toHaveLength(1));
});

import { afterEach, expect, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { keptKey, useKept } from './useKept.ts';

afterEach(() => {
  cleanup();
  localStorage.clear();
});

function Field({ saved }: { readonly saved: string }) {
  const kept = useKept('note 7', saved);
  return (
    <>
      <input aria-label="note" value={kept.value} onChange={(e) => kept.set(e.target.value)} />
      <output>{kept.dirty ? 'not saved' : 'saved'}</output>
      <button onClick={kept.drop}>discard</button>
    </>
  );
}

test('what was typed outlives the page, and is let go when it is discarded', async () => {
  const user = userEvent.setup();
  const { unmount } = render(<Field saved="" />);
  expect(screen.getByText('saved')).toBeTruthy();
  await user.type(screen.getByLabelText('note'), 'Call her');
  expect(screen.getByText('not saved')).toBeTruthy();
  unmount();

  render(<Field saved="" />);
  expect(screen.getByLabelText<HTMLInputElement>('note').value).toBe('Call her');
  await user.click(screen.getByText('discard'));
  expect(screen.getByLabelText<HTMLInputElement>('note').value).toBe('');
  expect(localStorage.getItem(keptKey('note 7'))).toBeNull();
});

test('what cannot be read is as if nothing had been kept', () => {
  localStorage.setItem(keptKey('note 7'), '{"half');
  render(<Field saved="as saved" />);
  expect(screen.getByLabelText<HTMLInputElement>('note').value).toBe('as saved');
  expect(screen.getByText('saved')).toBeTruthy();
});

import { afterEach, expect, jest, test } from '@jest/globals';
import { act, cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { keepDrafts, useAllKept, useKept } from './useKept.ts';

afterEach(() => {
  cleanup();
  useAllKept.setState({ kept: {} });
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
  expect(useAllKept.getState().kept).toEqual({});
});

test('each tab keeps its own: what another one types replaces nothing', async () => {
  const user = userEvent.setup();
  render(<Field saved="" />);
  await user.type(screen.getByLabelText('note'), 'Mine');
  // As another tab stores what is typed there.
  const own = Object.keys(localStorage).find((name) => name.startsWith('zest-bell-kept '))!;
  const theirs = localStorage.getItem(own)!.replace('Mine', 'Theirs');
  localStorage.setItem('zest-bell-kept other', theirs);
  window.dispatchEvent(new StorageEvent('storage', { key: 'zest-bell-kept other' }));
  await user.type(screen.getByLabelText('note'), ' too');
  expect(screen.getByLabelText<HTMLInputElement>('note').value).toBe('Mine too');
  expect(localStorage.getItem('zest-bell-kept other')).toBe(theirs);
  expect(localStorage.getItem(own)).toContain('Mine too');
});

test('what comes back from elsewhere is shown where it is written', () => {
  render(<Field saved="" />);
  act(() => keepDrafts({ 'note 7': 'Taken back' }));
  expect(screen.getByLabelText<HTMLInputElement>('note').value).toBe('Taken back');
});

test('what a release before 0.20 kept is taken over, and what cannot be read is as if nothing had been kept', async () => {
  localStorage.setItem('zest-bell-draft note 8', '"Call them"');
  localStorage.setItem('zest-bell-draft note 9', '{"half');
  localStorage.setItem('zest-bell-answer 1 5', 'Get well');
  jest.resetModules();
  const again = await import('./useKept.ts');
  expect(again.useAllKept.getState().kept).toEqual({ 'note 8': 'Call them', 'answer 1 5': 'Get well' });
  expect(Object.keys(localStorage).filter((name) => !name.startsWith('zest-bell-kept '))).toEqual([]);
});

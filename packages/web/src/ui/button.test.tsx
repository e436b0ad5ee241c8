import { afterEach, expect, test } from '@jest/globals';
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Button } from './Button.tsx';

afterEach(cleanup);
const button = () => screen.getByRole<HTMLButtonElement>('button');

test('a press that is answered later cannot be made twice, and looks busy once it takes its time', async () => {
  let presses = 0;
  let settle = () => undefined as void;
  const answer = () => {
    presses++;
    return new Promise<void>((resolve) => (settle = resolve));
  };
  render(<Button onClick={answer}>Save</Button>);
  const user = userEvent.setup();
  await user.click(button());
  await user.click(button());
  expect([presses, button().getAttribute('aria-busy')]).toEqual([1, null]);
  await waitFor(() => expect(button().getAttribute('aria-busy')).toBe('true'));
  await user.click(button());
  settle();
  await waitFor(() => expect(button().getAttribute('aria-busy')).toBeNull());
  await user.click(button());
  expect(presses).toBe(2);
});

test('a press that is answered at once may be repeated', async () => {
  let presses = 0;
  render(<Button onClick={() => void presses++}>Add</Button>);
  const user = userEvent.setup();
  await user.dblClick(button());
  expect(presses).toBe(2);
});

/** What opens on a press, by pointer, finger or key. */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Explained } from './Explained.tsx';
import { Part } from './Part.tsx';

afterEach(cleanup);

test('marked words are text that opens by a press, Enter or Space, and closes by Done', async () => {
  const user = userEvent.setup();
  render(
    <Part words="for 5 days" label="Condition">
      <p>A number</p>
    </Part>,
  );
  const words = screen.getByRole('button', { name: 'Condition: for 5 days' });
  for (const open of [() => user.click(words), () => user.keyboard('{Enter}'), () => user.keyboard(' ')]) {
    words.focus();
    await open();
    expect(screen.queryByText('A number')).not.toBeNull();
    await user.click(screen.getByText('Done'));
    expect(screen.queryByText('A number')).toBeNull();
  }
});

test('a word of ours is explained on a press, as a finger cannot hover', async () => {
  const user = userEvent.setup();
  render(
    <p>
      Next <Explained word="check">check</Explained>
    </p>,
  );
  await user.pointer({ keys: '[TouchA]', target: screen.getByText('check') });
  expect((await screen.findByRole('tooltip')).textContent).toMatch(/^In a check, a rule looks once/);
});

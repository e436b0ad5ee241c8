/** What opens beside a control: one at a time, by keys too, and focus goes where somebody is. */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Popover } from 'radix-ui';
import { Part } from './Part.tsx';
import '../testing/patience.ts';
import { Pop } from './Pop.tsx';

afterEach(cleanup);

function Sentence({ log = [] }: { log?: string[] }) {
  return (
    <p>
      Students who{' '}
      <Part words="were away" label="Condition" onOpen={() => log.push('opened')} onClose={() => log.push('closed')}>
        <input aria-label="days" />
      </Part>{' '}
      get{' '}
      <Part words="a message" label="Wording">
        <input aria-label="text" />
      </Part>
    </p>
  );
}
const part = (name: string) => screen.getByRole('button', { name });

test('a part of a sentence opens where it stands, and Escape gives the focus back to its words', async () => {
  const log: string[] = [];
  render(<Sentence log={log} />);
  const user = userEvent.setup();
  await user.click(part('Condition: were away'));
  expect(await screen.findByLabelText('days')).toBeTruthy();
  await user.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryByLabelText('days')).toBeNull());
  await waitFor(() => expect(document.activeElement).toBe(part('Condition: were away')));
  expect(log).toEqual(['opened', 'closed']);
});

test('another that is opened at once stays open: the first takes no focus back from it', async () => {
  render(<Sentence />);
  const user = userEvent.setup();
  await user.click(part('Condition: were away'));
  await user.keyboard('{Escape}');
  await user.click(part('Wording: a message'));
  const text = await screen.findByLabelText('text');
  await user.type(text, 'still here');
  expect(screen.getByLabelText<HTMLInputElement>('text').value).toBe('still here');
});

test('it is never higher than it may be, nor than the window', async () => {
  render(
    <Popover.Root defaultOpen>
      <Popover.Trigger>Columns</Popover.Trigger>
      <Pop label="Columns" high={620} className="grid">
        <p>all of them</p>
      </Pop>
    </Popover.Root>,
  );
  const opened = await screen.findByRole('dialog', { name: 'Columns' });
  expect(opened.style.maxHeight).toBe('min(620px, var(--radix-popover-content-available-height))');
});

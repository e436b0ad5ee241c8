/** A form that is sent once: a refusal is shown at its field or above the form, and what was typed stays. */
import { afterEach, expect, jest, test } from '@jest/globals';
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { inPage } from '../../testing/inPage.tsx';
import { FakeRefusal, network } from '../../testing/network.ts';
import { PasswordDialog } from './PasswordDialog.tsx';

afterEach(cleanup);

const field = (label: RegExp) => screen.getByLabelText<HTMLInputElement>(label);

test('a refusal is shown where it belongs, the words stay, and the dialog closes once it is done', async () => {
  const onClose = jest.fn();
  const refusals: unknown[] = [
    new FakeRefusal(401, { title: 'The current password is wrong', code: 'wrongPassword', problems: [] }),
    new FakeRefusal(400, {
      code: 'invalidInput',
      title: 'Check the fields',
      problems: [{ path: 'password', code: 'common', message: 'This password is one that many people use' }],
    }),
    undefined,
  ];
  const asked = network({ 'POST /session/password': () => refusals.shift() });
  inPage(<PasswordDialog onClose={onClose} />);
  const user = userEvent.setup();
  await user.type(field(/^Current password/), 'old words of mine');
  await user.type(field(/^New password/), 'password12345');
  const change = () => user.click(screen.getByRole('button', { name: 'Change password' }));
  await change();
  expect((await screen.findByRole('alert')).textContent).toMatch(/The current password is wrong/);
  await change();
  expect(await screen.findByText(/one that many people use/)).toBeTruthy();
  expect(screen.queryByRole('alert')).toBeNull();
  expect([field(/^Current password/).value, field(/^New password/).value]).toEqual([
    'old words of mine',
    'password12345',
  ]);
  await change();
  await waitFor(() => expect(onClose).toHaveBeenCalled());
  expect(asked.map((a) => a.body)).toEqual(Array(3).fill({ old: 'old words of mine', password: 'password12345' }));
});

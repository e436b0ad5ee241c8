import { afterEach, expect, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useAllKept } from '../../lib/useKept.ts';
import { ServiceFields, useTypedService } from './ServiceFields.tsx';

afterEach(() => {
  cleanup();
  localStorage.clear();
});

function Form() {
  const { typed, setTyped, dropTyped } = useTypedService('of a test');
  return (
    <>
      <ServiceFields typed={typed} onChange={setTyped} problemAt={() => undefined} />
      <button onClick={dropTyped}>connected</button>
    </>
  );
}
const shown = () =>
  ['Address before /ims/oneroster', 'Client id', 'Client secret', 'Version'].map(
    (label) => screen.getByLabelText<HTMLInputElement>(label).value,
  );

test('what is typed of a service outlives the page until it is connected; its secret is kept nowhere', async () => {
  const user = userEvent.setup();
  const { unmount } = render(<Form />);
  await user.type(screen.getByLabelText('Address before /ims/oneroster'), 'https://sis.example');
  await user.type(screen.getByLabelText('Client id'), 'zest');
  await user.type(screen.getByLabelText('Client secret'), 'brackish-7');
  await user.selectOptions(screen.getByLabelText('Version'), '1.1');
  expect(shown()).toEqual(['https://sis.example', 'zest', 'brackish-7', '1.1']);
  expect(JSON.stringify({ ...localStorage })).not.toContain('brackish');
  unmount();

  render(<Form />);
  expect(shown()).toEqual(['https://sis.example', 'zest', '', '1.1']);
  await user.click(screen.getByText('connected'));
  expect(shown()).toEqual(['', '', '', '1.2']);
  expect(useAllKept.getState().kept).toEqual({});
});

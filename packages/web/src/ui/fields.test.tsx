import { useState } from 'react';
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { NumberField, TextField } from './fields.tsx';

afterEach(cleanup);

/** A field over a value that can also be changed from outside, as by a drag. */
function Days({ start, empty, log }: { start: number | null; empty?: string; log: (number | null)[] }) {
  const [value, setValue] = useState<number | null>(start);
  return (
    <>
      <NumberField
        label="Days"
        whole
        min={1}
        max={99}
        {...(empty === undefined ? {} : { empty })}
        value={value}
        onChange={(n) => {
          log.push(n);
          setValue(n);
        }}
      />
      <button onClick={() => setValue(7)}>drag</button>
    </>
  );
}
const input = () => screen.getByLabelText<HTMLInputElement>('Days');

describe('a number field', () => {
  test('commits each number as it is typed, and nothing that is none', async () => {
    const log: (number | null)[] = [];
    render(<Days start={5} log={log} />);
    const user = userEvent.setup();
    await user.clear(input());
    expect(screen.getByText('Type a number')).toBeDefined();
    await user.type(input(), '12');
    expect(log).toEqual([1, 12]);
    await user.type(input(), 'x');
    expect(screen.getByText('Type a number')).toBeDefined();
    expect(input().getAttribute('aria-invalid')).toBe('true');
    expect(log).toEqual([1, 12]);
  });

  test('names its bounds', async () => {
    const log: (number | null)[] = [];
    render(<Days start={5} log={log} />);
    const user = userEvent.setup();
    for (const [typed, problem] of [
      ['0', 'At least 1'],
      ['100', 'At most 99'],
      ['2.5', 'Type a whole number'],
    ] as const) {
      await user.clear(input());
      await user.type(input(), typed);
      expect(screen.getByText(problem)).toBeDefined();
    }
  });

  test('empty may mean no limit', async () => {
    const log: (number | null)[] = [];
    render(<Days start={5} empty="no limit" log={log} />);
    await userEvent.setup().clear(input());
    expect(log).toEqual([null]);
    expect(input().placeholder).toBe('no limit');
  });

  test('follows a change from outside, also over a half-typed number', async () => {
    render(<Days start={5} log={[]} />);
    const user = userEvent.setup();
    await user.clear(input());
    await user.click(screen.getByText('drag'));
    expect(input().value).toBe('7');
  });
});

test('a text field commits what has letters in it', async () => {
  const log: string[] = [];
  render(<TextField label="Tutor" value="Ada" onChange={(t) => log.push(t)} />);
  const user = userEvent.setup();
  const field = screen.getByLabelText('Tutor');
  await user.clear(field);
  expect(screen.getByText('Fill this in')).toBeDefined();
  await user.type(field, 'Bo');
  expect(log).toEqual(['B', 'Bo']);
});

test('a text field shows what is undone elsewhere, also when it comes back to where it began', async () => {
  function Undone() {
    const [value, setValue] = useState('Ada');
    return (
      <>
        <TextField label="Tutor" value={value} onChange={setValue} />
        <button onClick={() => setValue('Ada')}>undo</button>
      </>
    );
  }
  render(<Undone />);
  const user = userEvent.setup();
  const field = screen.getByLabelText<HTMLInputElement>('Tutor');
  await user.type(field, 'm');
  expect(field.value).toBe('Adam');
  await user.click(screen.getByText('undo'));
  expect(field.value).toBe('Ada');
});

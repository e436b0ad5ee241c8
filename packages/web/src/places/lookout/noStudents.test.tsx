import { afterEach, expect, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { NoStudents } from './NoStudents.tsx';

afterEach(cleanup);

test('what was searched for is named, and clearing it keeps the conditions', async () => {
  const done: unknown[] = [];
  const shown = (search: string) => (
    <NoStudents search={search} onSearch={(next) => done.push(next)} onChange={(part) => done.push(part)} />
  );
  const { rerender } = render(shown(' zzz '));
  expect(screen.getByText(/“zzz”/)).not.toBeNull();
  await userEvent.click(screen.getByText('Clear the search'));
  expect(done).toEqual(['']);
  rerender(shown(''));
  await userEvent.click(screen.getByText('Show all students'));
  expect(done[1]).toEqual({ when: null, logBrushes: [], ruleBrushes: [] });
});

/** The threshold of a condition, moved in its place among the students. */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import type { Leaf } from '@zest-bell/core/conditions';
import type { Dot } from '@zest-bell/core/rounds';
import { hereOf } from '../../testing/here.ts';
import { DotPlot } from './DotPlot.tsx';

afterEach(cleanup);

const dots: readonly Dot[] = [
  { student: 'p1', value: 12, meets: 'all' },
  { student: 'p2', value: 2, meets: 'no' },
  { student: 'p3', value: null, meets: 'unknown' },
];

function shown(start: Leaf, of = dots) {
  const log: number[] = [];
  function Shown() {
    const [leaf, setLeaf] = useState(start);
    const move = (value: number) => {
      log.push(value);
      setLeaf({ ...leaf, value });
    };
    return <DotPlot here={hereOf()} leaf={leaf} dots={of} onThreshold={move} />;
  }
  render(<Shown />);
  return { log, user: userEvent.setup(), handle: () => screen.queryByRole('slider') };
}

describe('a threshold', () => {
  test('is moved by keys, a step or five', async () => {
    const { log, user, handle } = shown({ measure: 'daysSinceVisit', is: '>=', value: 5 });
    expect(handle()!.getAttribute('aria-valuetext')).toBe('5 d');
    handle()!.focus();
    await user.keyboard('{ArrowRight}{ArrowUp}{ArrowLeft}{PageUp}{PageDown}x');
    expect(log).toEqual([6, 7, 6, 11, 6]);
  });

  test('cannot leave what its measure may be compared with', async () => {
    const { log, user, handle } = shown({ measure: 'daysSinceVisit', is: '>=', value: 1 });
    handle()!.focus();
    await user.keyboard('{PageDown}{ArrowLeft}');
    expect(log).toEqual([0, 0]);
  });

  test('against the class may lie below zero', async () => {
    const { log, user, handle } = shown({ measure: 'gradeVsClass', item: 'q1', is: '<=', value: 0 });
    handle()!.focus();
    await user.keyboard('{PageDown}');
    expect(log).toEqual([-5]);
  });

  test('follows the pointer only while it is held', () => {
    const { log, handle } = shown({ measure: 'daysSinceVisit', is: '>=', value: 5 });
    handle()!.setPointerCapture = () => undefined;
    // jsdom knows no pointers: a mouse says where it is.
    const at = (type: string, clientX: number) =>
      fireEvent(handle()!, new MouseEvent(type, { clientX, bubbles: true, cancelable: true }));
    at('pointermove', 300);
    expect(log).toEqual([]);
    at('pointerdown', 200);
    at('pointermove', 150);
    at('pointerup', 150);
    const moved = log.length;
    expect(moved).toBeGreaterThan(0);
    expect(log.every((n) => Number.isInteger(n) && n >= 0)).toBe(true);
    at('pointermove', 20);
    expect(log).toHaveLength(moved);
  });

  test('is none where the condition compares with nothing', () => {
    expect(shown({ measure: 'score', item: 'q1', is: 'empty' }).handle()).toBeNull();
  });
});

test('the picture is told: how many students, how many match, and of how many nothing is known', () => {
  shown({ measure: 'daysSinceVisit', is: '>=', value: 5 });
  expect(screen.getByRole('img').getAttribute('aria-label')).toBe('3 students by days since last visit; 1 match');
  expect(screen.getByText('1 not known yet')).toBeTruthy();
});

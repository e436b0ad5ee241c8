/** The limits of a course: each field takes what the course may have, and changes nothing else. */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import type { Problem } from '@zest-bell/core/problem';
import { parseCourseLimits, type CourseLimits } from '@zest-bell/core/rounds';
import { hereOf, LIMITS } from '../../testing/here.ts';
import { inPage } from '../../testing/inPage.tsx';
import { LimitFields } from './LimitFields.tsx';

afterEach(cleanup);

function shown(start: Partial<CourseLimits> = {}, problems: readonly Problem[] = []) {
  const log: CourseLimits[] = [];
  function Shown() {
    const [limits, setLimits] = useState<CourseLimits>({ ...LIMITS, ...start });
    const change = (next: CourseLimits) => {
      log.push(next);
      setLimits(next);
    };
    return <LimitFields here={hereOf()} limits={limits} problems={problems} onChange={change} />;
  }
  inPage(<Shown />);
  const section = (name: string) => within(screen.getByRole('region', { name }));
  return { log, section, user: userEvent.setup() };
}

const budgetOf = (log: readonly CourseLimits[]) => log.map((l) => l.settings.budget);

describe('the message budget', () => {
  test('is off until it is ticked, and then is one in two weeks', async () => {
    const { log, section, user } = shown();
    const budget = section('Message budget');
    expect(budget.queryByText('What may exceed it:')).toBeNull();
    await user.click(budget.getByLabelText('Limit how many nudges a student gets'));
    expect(budgetOf(log)).toEqual([{ count: 1, days: 14, strict: false }]);
    expect(budget.getByText('What may exceed it')).toBeTruthy();
    await user.click(budget.getByLabelText('Limit how many nudges a student gets'));
    expect(budgetOf(log).at(-1)).toBeNull();
  });

  test('says less of what passes it when nothing but essential rules does', async () => {
    const { section, user } = shown({ settings: { quietHours: null, budget: { count: 2, days: 7, strict: false } } });
    const budget = section('Message budget');
    expect(budget.getByText(/later steps of a rule/)).toBeTruthy();
    await user.click(budget.getByLabelText('Allow no exceptions but essential rules'));
    expect(budget.queryByText(/later steps of a rule/)).toBeNull();
    expect(budget.getByText(/rules that are essential/)).toBeTruthy();
  });

  test('takes the numbers that a course may have, and no others', async () => {
    const { log, section, user } = shown({
      settings: { quietHours: null, budget: { count: 2, days: 7, strict: false } },
    });
    const days = section('Message budget').getByLabelText('within');
    await user.clear(days);
    await user.type(days, '0');
    expect(section('Message budget').getByText('At least 1')).toBeTruthy();
    expect(log).toEqual([]);
    await user.clear(days);
    await user.type(days, '30');
    expect(log.every((l) => parseCourseLimits(l).ok)).toBe(true);
    expect(budgetOf(log).at(-1)).toEqual({ count: 2, days: 30, strict: false });
  });
});

describe('quiet hours', () => {
  test('begin as a night, and may be whole days', async () => {
    const { log, section, user } = shown();
    const quiet = section('Quiet hours');
    await user.click(quiet.getByLabelText('Send nothing at certain hours or on certain days'));
    await user.click(quiet.getByRole('button', { name: /Sun/ }));
    expect(log.map((l) => l.settings.quietHours)).toEqual([
      { from: '21:00', to: '07:00', days: [] },
      { from: '21:00', to: '07:00', days: ['SU'] },
    ]);
  });

  test('say what is wrong with them where they stand', () => {
    const problem = { path: 'settings.quietHours.days', code: 'always', message: 'Leave at least one moment open' };
    const { section } = shown({}, [problem]);
    expect(section('Quiet hours').getByText(/Leave at least one moment open/)).toBeTruthy();
    expect(section('Message budget').queryByText(/▲/)).toBeNull();
  });
});

describe('breaks and marks', () => {
  test('a break is added at the end of the term, named, and removed', async () => {
    const { log, section, user } = shown();
    const breaks = section('Breaks');
    await user.click(breaks.getByText('Add a break'));
    expect(log.at(-1)?.breaks).toEqual([{ from: '2026-12-18', to: '2026-12-18', name: 'Break' }]);
    await user.type(breaks.getByLabelText('Name'), 's');
    expect(log.at(-1)?.breaks[0]?.name).toBe('Breaks');
    await user.click(breaks.getByRole('button', { name: 'Remove Breaks' }));
    expect(log.at(-1)?.breaks).toEqual([]);
  });

  test('a named score has a name of its own, and a number in percent', async () => {
    const { log, section, user } = shown();
    const marks = section('Named scores');
    await user.type(marks.getByLabelText('New named score'), 'mastery');
    expect(marks.getByText<HTMLButtonElement>('Add').disabled).toBe(true);
    await user.clear(marks.getByLabelText('New named score'));
    await user.type(marks.getByLabelText('New named score'), 'pass');
    await user.click(marks.getByText('Add'));
    await user.clear(marks.getByLabelText('the pass score'));
    await user.type(marks.getByLabelText('the pass score'), '60');
    expect(log.at(-1)?.marks).toEqual({ mastery: 80, pass: 60 });
    await user.click(marks.getByRole('button', { name: 'Remove the mastery score' }));
    expect(log.at(-1)?.marks).toEqual({ pass: 60 });
  });
});

test('what asks first is typed in percent and kept as a share', async () => {
  const { log, section, user } = shown();
  const field = section('Before anything is sent').getByLabelText(/Ask me before/);
  await user.clear(field);
  await user.type(field, '25');
  expect(log.at(-1)?.guards).toEqual({ askAbove: 0.25, staleHours: null });
  await user.type(section('Before anything is sent').getByLabelText(/Hold checks/), '48');
  expect(log.at(-1)?.guards).toEqual({ askAbove: 0.25, staleHours: 48 });
});

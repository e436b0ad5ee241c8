/** A condition opened in its place in the sentence: what it looks at, of which item, over what time. */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import type { Leaf } from '@zest-bell/core/conditions';
import { at, course } from '../../testing/course.ts';
import '../../testing/patience.ts';
import { ConditionPart } from './ConditionPart.tsx';

afterEach(cleanup);

const now = at('2026-09-14T09:00');

function Shown({ start, log, between }: { start: Leaf; log: Leaf[]; between?: Leaf[] }) {
  const [leaf, setLeaf] = useState(start);
  return (
    <ConditionPart
      leaf={leaf}
      course={course}
      now={now}
      onChange={(next) => {
        log.push(next);
        setLeaf(next);
      }}
      onRemove={() => log.push({ ...leaf, is: 'filled' })}
      onOpen={() => undefined}
      {...(between && { onBetween: (low, high) => between.push(low, high) })}
    />
  );
}

async function opened(start: Leaf, between?: Leaf[]) {
  const log: Leaf[] = [];
  render(<Shown start={start} log={log} {...(between && { between })} />);
  const user = userEvent.setup();
  await user.click(screen.getByRole('button'));
  return { log, user, pop: within(await screen.findByRole('dialog', { name: 'Condition' })) };
}

const typed = async (user: ReturnType<typeof userEvent.setup>, field: HTMLElement, words: string) => {
  await user.clear(field);
  await user.type(field, words);
};

describe('a condition that is opened', () => {
  test('takes any threshold that its rule may have, and says what is beyond it', async () => {
    const { log, user, pop } = await opened({ measure: 'daysSinceVisit', is: '>=', value: 5 });
    const field = pop.getByLabelText('compared with');
    await typed(user, field, '21');
    expect(log.at(-1)).toEqual({ measure: 'daysSinceVisit', is: '>=', value: 21 });
    await typed(user, field, '-1');
    expect(pop.getByText('At least 0')).toBeTruthy();
    await typed(user, field, '4000');
    expect(pop.getByText('At most 3,660')).toBeTruthy();
    expect(log.every((l) => typeof l.value === 'number' && l.value >= 0 && l.value <= 3660)).toBe(true);
  });

  test('on the class mean may lie below it', async () => {
    const { log, user, pop } = await opened({ measure: 'gradeVsClass', item: 'q1', is: '<=', value: -10 });
    await typed(user, pop.getByLabelText('compared with'), '-15');
    expect(log.at(-1)?.value).toBe(-15);
    expect(pop.queryByText(/At least/)).toBeNull();
  });

  test('counts over the whole term, a week, some days, or from a date', async () => {
    const { log, user, pop } = await opened({ measure: 'visits', is: '<', value: 3 });
    const counted = pop.getByLabelText('counted');
    await user.selectOptions(counted, 'week');
    await user.selectOptions(counted, 'last');
    await typed(user, pop.getByLabelText('how many'), '10');
    await user.selectOptions(counted, 'since');
    await user.selectOptions(counted, 'ever');
    expect(log.map((l) => l.window)).toEqual([
      { this: 'week' },
      { last: { days: 7 } },
      { last: { days: 1 } },
      { last: { days: 10 } },
      { since: '2026-08-31' },
      undefined,
    ]);
  });

  test('of one item or of a group, never of both', async () => {
    const { log, user, pop } = await opened({ measure: 'posts', group: 'Quizzes', is: '<', value: 1 });
    const among = pop.getByLabelText('among');
    await user.selectOptions(among, '');
    await user.selectOptions(among, 'Quizzes');
    expect(log.map((l) => [l.group, l.items])).toEqual([
      [undefined, undefined],
      ['Quizzes', undefined],
    ]);
    await user.click(pop.getByText('Or choose items'));
    await user.click(pop.getByLabelText('Chart quiz'));
    expect(log.at(-1)).toMatchObject({ items: ['q2'] });
    expect(log.at(-1)).not.toHaveProperty('group');
  });

  test('due soon is counted in days or hours, with a number that fits each', async () => {
    const { log, user, pop } = await opened({ measure: 'dueSoon', hours: 48, is: '>=', value: 1 });
    await user.selectOptions(pop.getByLabelText('counted in'), 'days');
    expect(log.at(-1)).toMatchObject({ days: 1 });
    expect(log.at(-1)).not.toHaveProperty('hours');
    await typed(user, pop.getByLabelText(/within \(0 is today/), '0');
    expect(log.at(-1)).toMatchObject({ days: 0 });
    await user.selectOptions(pop.getByLabelText('counted in'), 'hours');
    expect(log.at(-1)).toMatchObject({ hours: 48 });
  });

  test('becomes two bounds around the number that it had', async () => {
    const between: Leaf[] = [];
    const { user, pop } = await opened({ measure: 'score', item: 'q1', is: '<=', value: 70 }, between);
    await user.selectOptions(pop.getByLabelText('how'), 'between');
    expect(between.map((l) => [l.is, l.value])).toEqual([
      ['>=', 56],
      ['<=', 70],
    ]);
  });

  test('on another measure keeps its item', async () => {
    const { log, user, pop } = await opened({ measure: 'score', item: 'q2', is: '<=', value: 70 });
    await user.click(pop.getByText('change …'));
    await user.click(pop.getByRole('option', { name: /Points on an item/ }));
    expect(log.at(-1)).toMatchObject({ measure: 'points', item: 'q2' });
  });

  test('can be removed from where it stands', async () => {
    const { log, user, pop } = await opened({ measure: 'missing', is: '>=', value: 1 });
    await user.click(pop.getByText('Remove this condition'));
    expect(log).toHaveLength(1);
  });
});

import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import type { Rhythm } from '@zest-bell/core/time';
import { makeCourse } from '@zest-bell/core/course';
import type { Leaf } from '@zest-bell/core/conditions';
import type { Rule } from '@zest-bell/core/rules';
import { Comparison, ScoreUnit } from '../conditions/Comparison.tsx';
import { RepeatPart } from './RepeatPart.tsx';
import { RunStrip } from './RunStrip.tsx';

afterEach(cleanup);

const course = makeCourse({
  code: 'NAV 120',
  title: 'Coastal Navigation',
  timeZone: 'America/New_York',
  start: '2026-08-31',
  end: '2026-12-18',
  breaks: [{ from: '2026-11-23', to: '2026-11-29', name: 'Harvest break' }],
  groupWeights: null,
  marks: { mastery: 80 },
  settings: { quietHours: null, budget: null },
  people: [],
  items: [
    {
      id: 'q1',
      title: 'Tide tables quiz',
      kind: 'quiz',
      group: 'Quizzes',
      points: 20,
      opensAt: null,
      dueAt: null,
      topics: [],
      excused: [],
      extensions: [],
    },
  ],
});

describe('what a score is compared with', () => {
  function Fields({ start, log }: { start: Leaf; log: Leaf[] }) {
    const [leaf, setLeaf] = useState(start);
    const change = (next: Leaf) => {
      log.push(next);
      setLeaf(next);
    };
    return (
      <>
        <ScoreUnit leaf={leaf} course={course} onChange={change} />
        <Comparison leaf={leaf} course={course} onChange={change} />
      </>
    );
  }
  const score: Leaf = { measure: 'score', item: 'q1', is: '<=', value: 65 };

  test('keeps its place on the scale when it is measured in points, and back', async () => {
    const log: Leaf[] = [];
    render(<Fields start={score} log={log} />);
    const user = userEvent.setup();
    await user.selectOptions(screen.getByLabelText('measured'), 'points');
    await user.selectOptions(screen.getByLabelText('measured'), 'score');
    expect(log).toEqual([{ measure: 'points', item: 'q1', is: '<=', value: 13 }, score]);
  });

  test('may be a mark of the course, and a number again', async () => {
    const log: Leaf[] = [];
    render(<Fields start={score} log={log} />);
    const user = userEvent.setup();
    await user.click(screen.getByText('Use the mastery score'));
    await user.click(screen.getByText('Use a number'));
    expect(log.map((l) => l.value)).toEqual([{ mark: 'mastery' }, 80]);
  });

  test('may be nothing yet, and the number is gone', async () => {
    const log: Leaf[] = [];
    render(<Fields start={score} log={log} />);
    await userEvent.setup().selectOptions(screen.getByLabelText('how'), 'empty');
    expect(log).toEqual([{ measure: 'score', item: 'q1', is: 'empty' }]);
  });
});

test('the repeat limits are combined freely, and the common ones are one click', async () => {
  const log: Partial<Rule>[] = [];
  const rule = { repeat: { perSpell: 1, perTerm: 3, gap: null }, essential: false, weight: 'normal' } as const;
  render(<RepeatPart words="once each time" course={course} rule={rule} onChange={(change) => log.push(change)} />);
  const user = userEvent.setup();
  await user.click(screen.getByText('once each time'));
  await user.click(screen.getByRole('button', { name: 'at every check' }));
  await user.type(screen.getByLabelText('Wait between nudges: at least'), '7');
  await user.click(screen.getByRole('button', { name: 'high' }));
  await user.click(screen.getByLabelText(/Essential/));
  expect(log).toEqual([
    { repeat: { perSpell: null, perTerm: null, gap: null } },
    { repeat: { perSpell: 1, perTerm: 3, gap: { days: 7, hours: 0 } } },
    { weight: 'strong' },
    { essential: true },
  ]);
});

test('the run of a rule is moved by keys within the term, and its ends never cross', async () => {
  const log: string[] = [];
  const rhythm: Pick<Rhythm, 'start'> & { until: string } = { start: '2026-12-17T09:30', until: '2026-12-18' };
  render(
    <RunStrip
      course={course}
      now={course.calendar.start}
      from={rhythm.start.slice(0, 10)}
      until={rhythm.until}
      rounds={[]}
      onFrom={(d) => log.push(`from ${d}`)}
      onUntil={(d) => log.push(`until ${d}`)}
    />,
  );
  const user = userEvent.setup();
  screen.getByRole('slider', { name: 'First day of the run' }).focus();
  await user.keyboard('{ArrowLeft}{ArrowRight}{ArrowUp}');
  screen.getByRole('slider', { name: 'Last day of the run' }).focus();
  await user.keyboard('{ArrowRight}{ArrowLeft}');
  expect(log).toEqual(['from 2026-12-16', 'from 2026-12-18', 'until 2026-12-17']);
});

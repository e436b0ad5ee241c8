/** How often a rule looks, as an instructor says it, and as the recurrence rule that is kept (RFC 5545 §3.3.10). */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import type { Rhythm } from '@zest-bell/core/time';
import { at, course } from '../../testing/course.ts';
import '../../testing/patience.ts';
import { RhythmPart } from './RhythmPart.tsx';

afterEach(cleanup);

const WEEKDAYS = 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR';

async function opened(rrule: string, start = '2026-09-07T09:30') {
  const log: Rhythm[] = [];
  function Shown() {
    const [rhythm, setRhythm] = useState<Rhythm>({ start, rrule, skipBreaks: true } as Rhythm);
    const change = (next: Rhythm) => {
      log.push(next);
      setRhythm(next);
    };
    return <RhythmPart rhythm={rhythm} course={course} now={at('2026-09-14T09:00')} onChange={change} />;
  }
  render(<Shown />);
  const user = userEvent.setup();
  await user.click(screen.getByRole('button', { name: /When it runs/ }));
  const pop = within(await screen.findByRole('dialog', { name: 'When it runs' }));
  const rrules = () => log.map((r) => r.rrule);
  return { log, rrules, user, pop };
}

describe('when a rule runs', () => {
  test('is chosen by what it is called', async () => {
    const { log, rrules, user, pop } = await opened(WEEKDAYS);
    const run = pop.getByLabelText('Run');
    expect((run as HTMLSelectElement).value).toBe('weekdays');
    for (const kind of ['hour', 'day', 'week', 'month', 'once', 'weekdays']) await user.selectOptions(run, kind);
    expect(rrules()).toEqual([
      'FREQ=HOURLY;INTERVAL=3',
      'FREQ=DAILY',
      'FREQ=WEEKLY;BYDAY=MO',
      'FREQ=MONTHLY;BYDAY=1MO',
      'FREQ=DAILY',
      WEEKDAYS,
    ]);
    // A single date is a run of one day.
    expect(log.map((r) => r.until ?? null)).toEqual([null, null, null, null, '2026-09-07', null]);
  });

  test('on chosen days, every so many weeks', async () => {
    const { rrules, user, pop } = await opened('FREQ=WEEKLY;BYDAY=TU,TH');
    await user.click(pop.getByRole('button', { name: /Sun/ }));
    await user.click(pop.getByRole('button', { name: /Thu/ }));
    await user.clear(pop.getByLabelText('Every how many weeks'));
    await user.type(pop.getByLabelText('Every how many weeks'), '2');
    expect(rrules()).toEqual([
      'FREQ=WEEKLY;BYDAY=TU,TH,SU',
      'FREQ=WEEKLY;BYDAY=TU,SU',
      'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,SU',
    ]);
    await user.type(pop.getByLabelText('Every how many weeks'), '7');
    expect(pop.getByText('At most 26')).toBeTruthy();
  });

  test('never on no day at all', async () => {
    const { log, user, pop } = await opened('FREQ=WEEKLY;BYDAY=MO');
    await user.click(pop.getByRole('button', { name: /Mon/ }));
    expect(log).toEqual([]);
  });

  test('says its next rounds, which lie ahead', async () => {
    const { pop } = await opened(WEEKDAYS);
    expect(pop.getByText(/Sep 14.*9:30 AM/)).toBeTruthy();
  });

  test('on a schedule that nobody chose here, it is the rule itself, and what is wrong with it is said', async () => {
    const { log, user, pop } = await opened('FREQ=DAILY;INTERVAL=3');
    await user.selectOptions(pop.getByLabelText('Run'), 'expert');
    const raw = pop.getByLabelText(/recurrence|rule/i);
    await user.clear(raw);
    await user.type(raw, 'FREQ=SOMETIMES');
    expect(log).toEqual([]);
    expect(raw.getAttribute('aria-invalid')).toBe('true');
    await user.clear(raw);
    await user.type(raw, 'FREQ=DAILY;INTERVAL=4');
    expect(log.at(-1)?.rrule).toBe('FREQ=DAILY;INTERVAL=4');
  });
});

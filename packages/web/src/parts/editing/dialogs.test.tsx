/** Small dialogs in which something is typed: what is sent, what is said, and that a refusal or a closing loses nothing. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useAllKept } from '../../lib/useKept.ts';
import { makeCourse } from '@zest-bell/core/course';
import { course } from '../../testing/course.ts';
import { hereOf } from '../../testing/here.ts';
import { inPage } from '../../testing/inPage.tsx';
import { network, FakeRefusal, type RecordedRequest } from '../../testing/network.ts';
import { lastToast } from '../../testing/toasts.ts';
import { AsideDialog } from './AsideDialog.tsx';
import { ExtensionDialog } from './ExtensionDialog.tsx';
import { GradeDialog } from './GradeDialog.tsx';
import { PauseDialog } from './PauseDialog.tsx';

beforeEach(() => {
  useAllKept.setState({ kept: {} });
});
afterEach(cleanup);

const here = hereOf();
const changes = (asked: readonly RecordedRequest[]) => asked.filter((a) => a.method !== 'GET');
const nothing = () => undefined;

describe('a student who is set aside', () => {
  const open = (students: readonly string[], onClose = nothing) =>
    inPage(<AsideDialog here={here} students={students} onClose={onClose} />);

  test('is so until a day, with a note, and comes back at once when it is undone', async () => {
    const asked = network({ 'PUT /courses/1/lookout/aside': undefined });
    let closed = 0;
    open(['p1'], () => void closed++);
    const user = userEvent.setup();
    await user.type(screen.getByLabelText('Note for you and your colleagues'), 'Called her');
    await user.click(screen.getByRole('button', { name: 'Set aside' }));
    await waitFor(() => expect(closed).toBe(1));
    expect(lastToast().title).toBe('Asta Lind is set aside until Mon Sep 21.');
    await lastToast().press();
    expect(changes(asked).map((a) => a.body)).toEqual([
      { students: ['p1'], until: '2026-09-21', note: 'Called her' },
      { students: ['p1'], until: null },
    ]);
    expect(useAllKept.getState().kept).toEqual({});
  });

  test('stays in the dialog with what was typed when the server refuses, and when it is closed', async () => {
    network({
      'PUT /courses/1/lookout/aside': new FakeRefusal(400, {
        title: 'Choose a day after today.',
        code: 'invalidInput',
      }),
    });
    open(['p1', 'p2']);
    const user = userEvent.setup();
    await user.type(screen.getByLabelText('Note for you and your colleagues'), 'Both ill');
    await user.click(screen.getByRole('button', { name: 'Set aside' }));
    await waitFor(() => expect(lastToast().title).toBe('Choose a day after today.'));
    expect(screen.getByText('Set 2 students aside')).toBeTruthy();
    cleanup();
    open(['p1', 'p2']);
    expect(screen.getByLabelText<HTMLTextAreaElement>('Note for you and your colleagues').value).toBe('Both ill');
  });
});

describe('a pause', () => {
  const pausing = async (choose: (user: ReturnType<typeof userEvent.setup>) => Promise<void>) => {
    const asked = network({ 'POST /courses/1/edit': { change: 4, summary: 'Paused', rules: [], broken: [] } });
    let closed = 0;
    inPage(<PauseDialog here={here} students={['p1']} onClose={() => void closed++} />);
    const user = userEvent.setup();
    await choose(user);
    await user.click(screen.getByRole('button', { name: 'Pause nudges' }));
    await waitFor(() => expect(closed).toBe(1));
    return changes(asked)[0]!.body;
  };
  const people = [{ id: 'p1', set: { paused: true } }];

  test('asks until when: a week from now, the end of the term, or until it is resumed', async () => {
    expect(await pausing(() => Promise.resolve())).toEqual({ people, pausedUntil: '2026-09-21' });
    cleanup();
    expect(await pausing((user) => user.click(screen.getByLabelText(/^Until the term ends on/)))).toEqual({
      people,
      pausedUntil: 'term',
    });
    cleanup();
    expect(await pausing((user) => user.click(screen.getByLabelText('Until I resume them')))).toEqual({ people });
  });

  test('of a day that is over stays, with why at the day', async () => {
    const problems = [{ path: 'pausedUntil', code: 'edit', message: 'Choose a day that is still to come' }];
    network({
      'POST /courses/1/edit': new FakeRefusal(400, { title: 'Check the fields', code: 'invalidInput', problems }),
    });
    inPage(<PauseDialog here={here} students={['p1', 'p2']} onClose={nothing} />);
    await userEvent.setup().click(screen.getByRole('button', { name: 'Pause nudges' }));
    await waitFor(() => expect(screen.getByText(/Choose a day that is still to come/)).toBeTruthy());
    expect(screen.getByText('Pause nudges for 2 people')).toBeTruthy();
  });
});

describe('a score', () => {
  const item = course.items[0]!;
  const cell = { points: 12, at: here.now, state: 'graded' } as never;
  const open = (of = item, onClose = nothing) =>
    inPage(<GradeDialog here={here} student="p1" item={of} cell={cell} toStudent onClose={onClose} />);
  const saveButton = () => screen.getByRole<HTMLButtonElement>('button', { name: 'Save score' });

  test('is saved when it is another one, and said with the way back', async () => {
    const answer = {
      change: 9,
      summary: 'Asta Lind: 15 points for Tide tables quiz',
      rules: ['Low score'],
      broken: [],
    };
    const asked = network({
      'PUT /courses/1/students/p1/grades/q1': answer,
      'POST /courses/1/changes/9/undo': { title: 'Undone' },
    });
    open();
    expect(saveButton().disabled).toBe(true);
    const user = userEvent.setup();
    const points = screen.getByLabelText('Points');
    await user.clear(points);
    await user.type(points, '15');
    await user.click(saveButton());
    await waitFor(() => expect(lastToast().title).toBe('Asta Lind: 15 points for Tide tables quiz.'));
    expect(lastToast().description).toBe('1 rule looks at this.');
    await lastToast().press();
    expect(changes(asked).map((a) => [a.path, a.body])).toEqual([
      ['/courses/1/students/p1/grades/q1', { points: 15 }],
      ['/courses/1/changes/9/undo', {}],
    ]);
  });

  test('above the points possible is said to be extra credit before it is saved', async () => {
    open();
    const user = userEvent.setup();
    await user.clear(screen.getByLabelText('Points'));
    await user.type(screen.getByLabelText('Points'), '22');
    expect(screen.getByRole('status', { name: '' }).textContent).toMatch(/More than the 20 points possible/);
    expect(saveButton().disabled).toBe(false);
    await user.clear(screen.getByLabelText('Points'));
    await user.type(screen.getByLabelText('Points'), '-2');
    expect(screen.getByText('At least 0')).toBeTruthy();
  });

  test('of an item without points cannot be corrected, and the way to the student is there', async () => {
    open({ ...item, points: null });
    expect(screen.getByText(/This item has no points/)).toBeTruthy();
    expect(screen.queryByLabelText('Points')).toBeNull();
    await userEvent.setup().click(screen.getByText('Open the page of Asta Lind'));
    expect(screen.getByLabelText('address').textContent).toBe('/c/1/students/p1');
  });
});

describe('an extension', () => {
  const people = course.people.map((p, i) => ({ ...p, section: `0${i + 1}` }));
  const own = hereOf({}, makeCourse({ ...course, people }));
  const open = (onClose: (done: boolean) => void = nothing) =>
    inPage(<ExtensionDialog here={own} items={own.course.items.slice(0, 3)} onClose={onClose} />);

  test('is given to whom is ticked, on what has a due date, and says until when', async () => {
    const answer = { change: 4, summary: 'Due dates of 3 items', rules: [], broken: [] };
    const asked = network({ 'POST /courses/1/edit': answer });
    const closed: boolean[] = [];
    open((done) => closed.push(done));
    const user = userEvent.setup();
    const extend = screen.getByRole<HTMLButtonElement>('button', { name: 'Extend 3 items' });
    expect(extend.disabled).toBe(true);
    await user.click(screen.getByLabelText('Bo Lind'));
    await user.clear(screen.getByLabelText('Later by'));
    await user.type(screen.getByLabelText('Later by'), '2');
    expect(screen.getByText('Tide tables quiz: due Sun Sep 13, 11:00 PM')).toBeTruthy();
    await user.click(extend);
    await waitFor(() => expect(closed).toEqual([true]));
    const [{ body }] = changes(asked) as unknown as [
      { body: { items: { id: string; set: { extensions: object[] } }[] } },
    ];
    expect(body.items.map((i) => [i.id, i.set.extensions.length])).toEqual([
      ['q1', 1],
      ['s1', 1],
      ['q2', 1],
    ]);
    expect(body.items[0]!.set.extensions[0]).toMatchObject({ person: 'p2' });
  });

  test('is given to a section, and stays open with the field that is at fault', async () => {
    const problem = { path: 'items[0].extensions', code: 'late', message: 'After the end of the course' };
    network({
      'POST /courses/1/edit': new FakeRefusal(400, { title: 'No', code: 'invalidInput', problems: [problem] }),
    });
    const closed: boolean[] = [];
    open((done) => closed.push(done));
    const user = userEvent.setup();
    await user.selectOptions(screen.getByLabelText('For'), '02');
    await user.click(screen.getByRole('button', { name: 'Extend 3 items' }));
    await waitFor(() => expect(lastToast().title).toBe('Some fields need a correction. Nothing was saved.'));
    expect(closed).toEqual([]);
  });
});

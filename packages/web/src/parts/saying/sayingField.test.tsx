/** The field as its users meet it: by keyboard, by button, and by ear. The combobox follows the ARIA Authoring Practices (W3C). */
import { useState } from 'react';
import { expect, test } from '@jest/globals';
import { render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { makeCourse, type Item } from '@zest-bell/core/course';
import type { SaidRule } from '@zest-bell/core/saying';
import { saidSentence } from '@zest-bell/core/saying';
import { SayingField } from './SayingField.tsx';

const item = (id: string, title: string): Item => ({
  id,
  title,
  kind: 'quiz',
  group: 'Quizzes',
  points: 100,
  opensAt: null,
  dueAt: null,
  topics: [],
  excused: [],
  extensions: [],
});
const course = makeCourse({
  code: 'NAV 120',
  title: 'Coastal Navigation',
  timeZone: 'America/New_York',
  start: '2026-08-31',
  end: '2026-12-18',
  breaks: [],
  groupWeights: null,
  marks: {},
  settings: { quietHours: null, budget: null },
  people: [],
  items: [item('q1', 'Quiz 1'), item('q12', 'Quiz 12'), item('s', 'Syllabus')],
});

function Field({ taken }: { readonly taken: SaidRule[] }) {
  const [text, setText] = useState('');
  return (
    <SayingField
      course={course}
      label="Say it"
      placeholder="away 5 days"
      examples={['away 5 days']}
      text={text}
      onText={setText}
      understood={(rule) => <p>{saidSentence(rule, course)}</p>}
      spoken={(rule) => saidSentence(rule, course)}
      takes="Use it"
      onTake={(rule) => taken.push(rule)}
    />
  );
}

function opened() {
  const taken: SaidRule[] = [];
  render(<Field taken={taken} />);
  return { taken, user: userEvent.setup(), field: screen.getByRole<HTMLInputElement>('combobox') };
}

test('what is understood is shown, spoken, and taken by Enter and by the button', async () => {
  const { taken, user, field } = opened();
  await user.type(field, 'away 5 days');
  expect(screen.getByText('students who have not visited the course for 5 days')).toBeTruthy();
  await waitFor(() => expect(screen.getByRole('status').textContent).toMatch(/^students who have not visited/));
  await user.keyboard('{Enter}');
  await user.click(screen.getByRole('button', { name: 'Use it' }));
  expect(taken).toHaveLength(2);
});

test('a word that is not known is named, and mended by one press', async () => {
  const { taken, user, field } = opened();
  await user.type(field, 'never opened syllabos{Enter}');
  expect(taken).toEqual([]);
  expect(field.value.slice(field.selectionStart!, field.selectionEnd!)).toBe('syllabos');
  expect(document.getElementById(field.getAttribute('aria-describedby')!)!.textContent).toContain(
    '“syllabos” is not known here',
  );
  await user.click(screen.getByRole('button', { name: 'Syllabus' }));
  expect(field.value).toBe('never opened Syllabus');
  expect(document.activeElement).toBe(field);
  await user.keyboard('{Enter}');
  expect(taken).toHaveLength(1);
});

test('a name that could be two is asked', async () => {
  const { user, field } = opened();
  await user.type(field, 'under 60% on quiz');
  await user.click(screen.getByRole('button', { name: 'Quiz 12' }));
  expect(field.value).toBe('under 60% on Quiz 12');
  expect(screen.getByText('students who scored under 60% on Quiz 12')).toBeTruthy();
});

test('words that may follow are chosen by arrows and Enter; nothing is highlighted before, and Escape closes the list', async () => {
  const { taken, user, field } = opened();
  await user.type(field, 'never opened s');
  expect(field.getAttribute('aria-expanded')).toBe('true');
  expect(field.getAttribute('aria-activedescendant')).toBeNull();
  await user.keyboard('{ArrowDown}');
  const active = document.getElementById(field.getAttribute('aria-activedescendant')!)!;
  expect([active.textContent, active.getAttribute('aria-selected')]).toEqual(['Syllabus', 'true']);
  await user.keyboard('{Enter}');
  expect([field.value, taken.length]).toEqual(['never opened Syllabus ', 0]);
  await user.clear(field);
  await user.type(field, 'never opened q');
  expect(field.getAttribute('aria-expanded')).toBe('true');
  await user.keyboard('{Escape}');
  expect(field.getAttribute('aria-expanded')).toBe('false');
});

test('an empty field offers sentences', async () => {
  const { user, field } = opened();
  await user.click(screen.getByRole('button', { name: 'away 5 days' }));
  expect(field.value).toBe('away 5 days');
});

/** A small course, for tests of what a page says about one. */
import { parseInstant, type Instant } from '@zest-bell/core/time';
import { makeCourse, type Course, type Item, type Person } from '@zest-bell/core/course';

/** Local time of the course in its first weeks, when New York is four hours behind. */
export const at = (local: string): Instant => parseInstant(`${local}:00-04:00`);

const person = (id: string, firstName: string): Person => ({
  id,
  firstName,
  lastName: 'Lind',
  email: `${id}@saltmarsh.example`,
  role: 'student',
  active: true,
  section: null,
  enrolledAt: at('2026-08-31T00:00'),
  paused: false,
  contacts: [],
  fields: {},
});

const item = (id: string, title: string, more: Partial<Item> = {}): Item => ({
  id,
  title,
  kind: 'quiz',
  group: 'Quizzes',
  points: 20,
  opensAt: null,
  dueAt: null,
  topics: [],
  excused: [],
  extensions: [],
  ...more,
});

export const course: Course = makeCourse({
  code: 'NAV 120',
  title: 'Coastal Navigation',
  timeZone: 'America/New_York',
  start: '2026-08-31',
  end: '2026-12-18',
  breaks: [],
  groupWeights: null,
  marks: { mastery: 80 },
  settings: { quietHours: null, budget: null },
  people: [person('p1', 'Asta'), person('p2', 'Bo')],
  items: [
    item('q1', 'Tide tables quiz', { dueAt: at('2026-09-11T23:00') }),
    item('s1', 'Harbor walk', { kind: 'session', points: null, dueAt: at('2026-09-09T10:00') }),
    item('q2', 'Chart quiz', { dueAt: at('2026-09-18T23:00') }),
  ],
});

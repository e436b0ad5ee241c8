/** A made-up term of any size, repeatable from a seed, and five rules over it. Numbers only: nothing here is an oracle. */
import { DAY, HOUR } from '@zest-bell/core/time';
import { makeCourse, type Course, type Item, type Person } from '@zest-bell/core/course';
import { EVENT_KINDS, History } from '@zest-bell/core/activity';
import { parseRule, type Rule } from '@zest-bell/core/rules';

export interface BenchSize {
  readonly name: string;
  readonly students: number;
  readonly events: number;
}

export const SMALL: BenchSize = { name: 'S', students: 200, events: 150_000 };
export const LARGE: BenchSize = { name: 'L', students: 2000, events: 3_000_000 };

/** A small fast generator (mulberry32), seeded, so that every run sees the same data. */
export function random(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const ITEMS = 60;
const GRADED = 20;

export function benchCourse(size: BenchSize): Course {
  const start = Date.parse('2026-08-31T04:00:00Z');
  const person = (i: number): Person => ({
    id: `s${i}`,
    firstName: 'A',
    lastName: String(i),
    email: `s${i}@saltmarsh.example`,
    role: 'student',
    section: null,
    active: true,
    enrolledAt: start,
    paused: false,
    contacts: [],
    fields: {},
  });
  const item = (i: number): Item => ({
    id: `i${i}`,
    title: `Item ${i}`,
    kind: i < GRADED ? 'quiz' : i < 40 ? 'page' : 'forum',
    group: i < GRADED ? 'Quizzes' : 'Rest',
    points: i < GRADED ? 20 : null,
    opensAt: null,
    dueAt: start + (5 + i * 1.7) * DAY,
    topics: [],
    excused: [],
    extensions: [],
  });
  return makeCourse({
    code: 'BENCH',
    title: 'Bench',
    timeZone: 'America/New_York',
    start: '2026-08-31',
    end: '2026-12-13',
    breaks: [],
    groupWeights: null,
    marks: {},
    settings: { quietHours: null, budget: { count: 1, days: 7 } },
    people: Array.from({ length: size.students }, (_, i) => person(i)),
    items: Array.from({ length: ITEMS }, (_, i) => item(i)),
  });
}

export function benchHistory(course: Course, size: BenchSize): History {
  const next = random(42);
  const history = new History(course);
  const each = Math.floor(size.events / size.students);
  const span = course.calendar.end - course.calendar.start;
  const kinds = [1, 2, 2, 2, 3, 4, 5, 0].map((k) => EVENT_KINDS[k]!);
  course.people.forEach((person, p) => {
    // Some stop early, some pause: absences are what the rules look for.
    const until = next() < 0.25 ? 0.3 + 0.6 * next() : 1;
    const times = Float64Array.from({ length: each }, () => next() * until).sort();
    history.people[p]!.reserve(each);
    for (const t of times) {
      const kind = kinds[Math.floor(next() * kinds.length)]!;
      const item = kind === 'visit' || kind === 'signIn' ? null : `i${Math.floor(next() * ITEMS)}`;
      history.addEvent({ person: person.id, kind, item, at: Math.floor(course.calendar.start + t * span) });
    }
    for (let i = 0; i < GRADED; i++) {
      if (next() < 0.15) continue;
      const at = course.items[i]!.dueAt! + 40 * HOUR;
      history.addGrade({ person: person.id, item: `i${i}`, criterion: null, points: Math.round(next() * 20), at });
    }
  });
  return history;
}

/** Ten varied rules, as instructors set them up. */
const CONDITIONS: readonly object[] = [
  { measure: 'daysSinceVisit', is: '>=', value: 5 },
  {
    all: [
      { measure: 'daysSinceVisit', is: '>=', value: 3 },
      { measure: 'score', item: 'i3', is: '<=', value: 50 },
    ],
  },
  { measure: 'opens', item: 'i25', is: 'equals', value: 0 },
  {
    any: [
      { measure: 'missing', group: 'Quizzes', is: '>=', value: 2 },
      { measure: 'courseGrade', is: '<', value: 40 },
    ],
  },
  {
    all: [
      { measure: 'courseGrade', is: '>=', value: 60 },
      { measure: 'missing', is: '<=', value: 10 },
      { measure: 'daysSinceSignIn', is: '<', value: 3 },
    ],
  },
  { measure: 'daysSinceSignIn', is: '>=', value: 7 },
  {
    all: [
      { measure: 'submitted', item: 'i8', is: 'equals', value: false },
      { measure: 'hoursUntilDue', item: 'i8', is: '<=', value: 48 },
      { measure: 'hoursUntilDue', item: 'i8', is: '>', value: 0 },
    ],
  },
  { measure: 'score', item: 'i5', is: '>', value: 95 },
  {
    any: [
      { measure: 'daysSinceVisit', is: '>=', value: 10 },
      {
        all: [
          { measure: 'missing', is: '>=', value: 12 },
          { measure: 'courseGrade', is: '<', value: 50 },
        ],
      },
    ],
  },
  {
    all: [
      { measure: 'opens', item: 'i30', is: '>=', value: 3 },
      { measure: 'score', item: 'i9', is: '<', value: 60 },
    ],
  },
];

export const benchRules = (): Rule[] =>
  CONDITIONS.map((when, i) => {
    const rule = parseRule({
      id: `r${i}`,
      name: `Rule ${i}`,
      status: 'on',
      audience: { roles: ['student'] },
      when,
      rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' },
      repeat: { perSpell: 1 },
      steps: [{ deliver: 'send', to: ['student'], wording: 'w' }],
    });
    if (!rule.ok) throw new Error(JSON.stringify(rule.problems));
    return rule.value;
  });

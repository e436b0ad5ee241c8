/** The courses of the demo, two that are played and one of the term to come: dates, roster and items. */
import { DAY, dateOf, dayNumberOf, MINUTE, zoneOf, type Instant } from '@zest-bell/core/time';
import type { CourseParts, Item, ItemKind, Person } from '@zest-bell/core/course';
import type { Habit } from '../campus/habits.ts';
import type { CampusGrade } from '../campus/simulator.ts';
import {
  ADVISORS,
  ASSISTANT,
  INSTRUCTOR,
  KNOTS_STUDENTS,
  MET_STUDENTS,
  NAV_STUDENTS,
  SPRING_STUDENTS,
  type DemoStudent,
} from './people.ts';

const ZONE = 'America/New_York';
const START = '2026-08-31';

/** Local time in the demo's zone. */
export const local = (date: string, time: string): Instant => {
  const [h = 0, m = 0] = time.split(':').map(Number);
  return zoneOf(ZONE).toInstant(dayNumberOf(date) * DAY + (h * 60 + m) * MINUTE);
};

/** A day of a week of a term: week 1 begins on the Monday of the first day; day 0 is Monday. */
const inWeek = (week: number, day: number, time: string, start = START): Instant =>
  local(dateOf(dayNumberOf(start) + (week - 1) * 7 + day), time);

const LAST_WEEK = 16;
const FRIDAY = 4;

/** Sunday evening; in the last week on the course's last day, a Friday. */
const endOfWeek = (week: number, time: string, start = START): Instant =>
  inWeek(week, week === LAST_WEEK ? FRIDAY : 6, time, start);

const item = (id: string, title: string, kind: ItemKind, more: Partial<Item>): Item => ({
  id,
  title,
  kind,
  group: null,
  points: null,
  opensAt: null,
  dueAt: null,
  topics: [],
  excused: [],
  extensions: [],
  ...more,
});

/** Weeks in which there is no class. */
const BREAK_WEEK = 13;
const WEEKS = Array.from({ length: LAST_WEEK }, (_, i) => i + 1).filter((w) => w !== BREAK_WEEK);

interface DemoAssignment {
  readonly id: string;
  readonly title: string;
  readonly week: number;
  readonly points: number;
  readonly topics: readonly string[];
}

/** Due at the end of its week; open from the Monday before. */
const graded = (kind: ItemKind, group: string, w: DemoAssignment, start = START): Item =>
  item(w.id, w.title, kind, {
    group,
    points: w.points,
    topics: w.topics,
    opensAt: inWeek(w.week, 0, '00:00', start),
    dueAt: endOfWeek(w.week, '23:59', start),
  });

const work = (id: string, title: string, week: number, points: number, ...topics: string[]): DemoAssignment => {
  return { id, title, week, points, topics };
};

function common(forum: string, session: string, sessionDay: number): Item[] {
  return [
    item('syllabus', 'Syllabus', 'page', { group: 'Start here' }),
    item('standing', 'Where you stand', 'page', { group: 'Start here', topics: ['standing'] }),
    ...WEEKS.map((w) =>
      item(`forum-${w}`, `${forum}, week ${w}`, 'forum', {
        group: 'Discussions',
        opensAt: inWeek(w, 0, '00:00'),
        dueAt: endOfWeek(w, '17:00'),
      }),
    ),
    ...WEEKS.map((w) =>
      item(`live-${w}`, `${session}, week ${w}`, 'session', {
        group: 'Live sessions',
        opensAt: inWeek(w, sessionDay, '10:00'),
        dueAt: inWeek(w, sessionDay, '10:00'),
      }),
    ),
  ];
}

const practice = (id: string, title: string, week: number, ...topics: string[]): Item =>
  item(id, title, 'practice', { group: 'Practice', topics, opensAt: inWeek(week, 0, '00:00') });

const reading = (id: string, title: string, week: number, ...topics: string[]): Item =>
  item(id, title, 'page', { group: 'Readings', topics, opensAt: inWeek(week, 0, '00:00') });

const NAV_ITEMS: readonly Item[] = [
  ...common('Watch log', 'Chart table', 2),
  practice('drill-tides', 'Tide drills', 1, 'tides'),
  practice('drill-symbols', 'Chart symbol drills', 3, 'symbols'),
  practice('drill-currents', 'Set and drift drills', 5, 'currents'),
  practice('drill-fixes', 'Fix drills', 7, 'fixes'),
  practice('drill-passage', 'Passage drills', 10, 'passage'),
  graded('quiz', 'Quizzes', work('tide-quiz', 'Tide tables quiz', 2, 20, 'tides')),
  graded('quiz', 'Quizzes', work('symbols-quiz', 'Chart symbols quiz', 4, 20, 'symbols')),
  graded('quiz', 'Quizzes', work('currents-quiz', 'Currents quiz', 6, 20, 'currents')),
  graded('quiz', 'Quizzes', work('fixes-quiz', 'Position fixing quiz', 8, 20, 'fixes')),
  graded('quiz', 'Quizzes', work('lights-quiz', 'Lights and marks quiz', 11, 20, 'lights')),
  graded('quiz', 'Quizzes', work('passage-quiz', 'Passage planning quiz', 15, 20, 'passage')),
  graded('assignment', 'Labs', work('lab-1', 'Chart lab 1', 3, 40, 'symbols')),
  graded('assignment', 'Labs', work('lab-2', 'Chart lab 2', 5, 40, 'currents')),
  graded('assignment', 'Labs', work('lab-3', 'Chart lab 3', 7, 40, 'fixes')),
  graded('assignment', 'Labs', work('lab-4', 'Chart lab 4', 9, 40, 'fixes', 'currents')),
  graded('assignment', 'Labs', work('lab-5', 'Chart lab 5', 12, 40, 'passage')),
  graded('assignment', 'Labs', work('voyage', 'Voyage plan', 16, 100, 'passage', 'tides')),
  reading('read-tides', 'Reading a tide table', 1, 'tides'),
  reading('read-symbols', 'Chart symbols at a glance', 3, 'symbols'),
  reading('read-currents', 'Set and drift, worked through', 5, 'currents'),
  reading('read-fixes', 'Three bearings, one fix', 7, 'fixes'),
];

const MET_ITEMS: readonly Item[] = [
  ...common('Sky diary', 'Weather desk', 1),
  practice('drill-clouds', 'Cloud drills', 1, 'clouds'),
  practice('drill-fronts', 'Front drills', 4, 'fronts'),
  practice('drill-wind', 'Wind drills', 7, 'wind'),
  graded('quiz', 'Quizzes', work('clouds-quiz', 'Clouds quiz', 2, 20, 'clouds')),
  graded('quiz', 'Quizzes', work('fronts-quiz', 'Fronts quiz', 5, 20, 'fronts')),
  graded('quiz', 'Quizzes', work('wind-quiz', 'Wind and sea quiz', 8, 20, 'wind')),
  graded('quiz', 'Quizzes', work('storms-quiz', 'Storms quiz', 12, 20, 'storms')),
  graded('assignment', 'Forecasts', work('forecast-1', 'Forecast 1', 4, 30, 'clouds')),
  graded('assignment', 'Forecasts', work('forecast-2', 'Forecast 2', 6, 30, 'fronts')),
  graded('assignment', 'Forecasts', work('forecast-3', 'Forecast 3', 9, 30, 'wind')),
  graded('assignment', 'Forecasts', work('routing', 'Weather routing plan', 16, 100, 'storms', 'wind')),
];

function roster(
  students: readonly DemoStudent[],
  change: Readonly<Record<string, Partial<Person>>>,
  start = START,
): Person[] {
  const enrolledAt = local(start, '00:00');
  const base = { section: null, active: true, enrolledAt, paused: false, contacts: [], fields: {} };
  return [
    { ...base, ...INSTRUCTOR, role: 'instructor' },
    { ...base, ...ASSISTANT, role: 'assistant' },
    ...students.map(({ habit: _habit, ...s }, i): Person => ({
      ...base,
      ...s,
      role: 'student',
      section: i % 3 === 2 ? '02' : '01',
      contacts: i % 4 === 0 ? [ADVISORS[i % 8 === 0 ? 0 : 1]] : [],
      ...change[s.id],
    })),
  ];
}

const habits = (students: readonly DemoStudent[]): Record<string, Habit> =>
  Object.fromEntries(students.map((s) => [s.id, s.habit]));

/** Where students open the items of a course. */
const CAMPUS = 'https://learn.saltmarsh.example';
const withLinks = (course: string, items: readonly Item[]): Item[] =>
  items.map((i) => ({ ...i, url: `${CAMPUS}/${course}/${i.id}` }));

const TERM = {
  timeZone: ZONE,
  start: START,
  end: '2026-12-18',
  breaks: [{ from: '2026-11-23', to: '2026-11-29', name: 'Harvest break' }],
  marks: { mastery: 80 },
};

export interface DemoCourse {
  readonly parts: CourseParts;
  readonly habits: Readonly<Record<string, Habit>>;
  /** Enrolled, and never seen. */
  readonly never: readonly string[];
  /** With an automatic reply on. */
  readonly away: readonly string[];
}

export const NAV_120: DemoCourse = {
  parts: {
    ...TERM,
    code: 'NAV 120',
    url: `${CAMPUS}/nav-120`,
    title: 'Coastal Navigation',
    groupWeights: { Quizzes: 40, Labs: 60 },
    settings: { quietHours: { from: '21:00', to: '07:00', days: [] }, budget: { count: 1, days: 7 } },
    people: roster(NAV_STUDENTS, {
      // Two are still at school: their families have mail of their own.
      n1: { contacts: [ADVISORS[0], { kind: 'guardian', name: 'A. Okoro', email: 'a.okoro@harbourmail.example' }] },
      n22: { contacts: [{ kind: 'guardian', name: 'C. Ionescu', email: 'c.ionescu@harbourmail.example' }] },
      n34: { enrolledAt: local('2026-09-21', '09:00') },
      n39: { email: null },
      n30: { paused: true },
    }),
    items: withLinks('nav-120', NAV_ITEMS).map((i) =>
      i.id === 'lab-2' ? { ...i, extensions: [{ person: 'n12', dueAt: local('2026-10-08', '23:59') }] } : i,
    ),
  },
  habits: habits(NAV_STUDENTS),
  never: ['n19'],
  away: ['n23'],
};

export const MET_115: DemoCourse = {
  parts: {
    ...TERM,
    code: 'MET 115',
    url: `${CAMPUS}/met-115`,
    title: 'Weather for Mariners',
    groupWeights: { Quizzes: 50, Forecasts: 50 },
    settings: { quietHours: { from: '21:00', to: '07:00', days: ['SU'] }, budget: { count: 1, days: 14 } },
    people: roster(MET_STUDENTS, {}),
    items: withLinks('met-115', MET_ITEMS),
  },
  habits: habits(MET_STUDENTS),
  never: [],
  away: [],
};

const SPRING_START = '2027-01-11';

/** The spring's weather course: its items go by other ids, some by other titles, and nobody has written a rule for it yet. */
export const MET_SPRING: CourseParts = {
  ...TERM,
  code: 'MET 115 S',
  title: 'Weather for Mariners',
  url: `${CAMPUS}/met-115-s`,
  start: SPRING_START,
  end: '2027-04-30',
  marks: {},
  groupWeights: null,
  breaks: [{ from: '2027-03-15', to: '2027-03-21', name: 'Spring break' }],
  settings: { quietHours: null, budget: null },
  people: roster(SPRING_STUDENTS, {}, SPRING_START),
  items: withLinks('met-115-s', [
    item('s-syllabus', 'Syllabus', 'page', { group: 'Start here' }),
    item('s-drill-1', 'Cloud drills', 'practice', { group: 'Practice', topics: ['clouds'] }),
    item('s-drill-2', 'Front drills', 'practice', { group: 'Practice', topics: ['fronts'] }),
    graded('quiz', 'Quizzes', work('s-quiz-1', 'Clouds quiz', 2, 20, 'clouds'), SPRING_START),
    graded('quiz', 'Quizzes', work('s-quiz-2', 'Fronts quiz', 5, 20, 'fronts'), SPRING_START),
    graded('quiz', 'Quizzes', work('s-quiz-3', 'Sea state quiz', 8, 20, 'wind'), SPRING_START),
    graded('assignment', 'Forecasts', work('s-forecast-1', 'Forecast 1', 4, 30, 'clouds'), SPRING_START),
    graded('assignment', 'Forecasts', work('s-forecast-2', 'Forecast 2', 6, 30, 'fronts'), SPRING_START),
    graded('assignment', 'Forecasts', work('s-forecast-3', 'Forecast 03', 9, 30, 'wind'), SPRING_START),
    graded(
      'assignment',
      'Forecasts',
      work('s-routing', 'Weather routing plan', 15, 100, 'storms', 'wind'),
      SPRING_START,
    ),
  ]),
};

/** A class of the learning platform that nobody has opened Zest Bell from: a first launch makes a course of it. */
export const UNCONNECTED: CourseParts = {
  ...TERM,
  code: 'KNT 105',
  title: 'Knots and Lines',
  url: `${CAMPUS}/knt-105`,
  marks: {},
  groupWeights: null,
  settings: { quietHours: null, budget: null },
  people: roster(KNOTS_STUDENTS, {}),
  items: withLinks('knt-105', [
    graded('quiz', 'Quizzes', work('k-quiz-1', 'Bends quiz', 3, 20, 'bends')),
    graded('quiz', 'Quizzes', work('k-quiz-2', 'Hitches quiz', 6, 20, 'hitches')),
    graded('assignment', 'Boards', work('k-board-1', 'Knot board 1', 4, 40, 'bends')),
    graded('assignment', 'Boards', work('k-board-2', 'Knot board 2', 7, 40, 'hitches')),
    graded('assignment', 'Boards', work('k-board-3', 'Knot board 3', 11, 40, 'splices')),
    graded('assignment', 'Boards', work('k-mooring', 'Mooring plan', 15, 100, 'splices')),
  ]),
};

/** What was turned in of it before a moment: most of what was due, a day ahead, for between half and all of the points. */
export function unconnectedGrades(before: Instant): CampusGrade[] {
  const { people, items } = UNCONNECTED;
  const students = people.filter((p) => p.role === 'student');
  return students.flatMap((student, s) =>
    items.flatMap((item, i): CampusGrade[] => {
      const at = (item.dueAt ?? before) - DAY;
      const isMissing = (s * 3 + i) % 8 === 0;
      if (at >= before || isMissing) return [];
      const share = 0.5 + ((s * 7 + i * 5) % 11) / 20;
      return [
        {
          id: `${student.id} ${item.id}`,
          person: student.id,
          item: item.id,
          points: Math.round(item.points! * share),
          at,
        },
      ];
    }),
  );
}

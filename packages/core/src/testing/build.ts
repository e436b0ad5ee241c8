/** Small builders for tests: a course of one zone, its people, items and history, written as short as a story. */
import { makeCourse, type Course, type CourseSettings } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import type { Person } from '../course/person.ts';
import { History } from '../activity/history.ts';
import type { EventKind } from '../activity/event.ts';
import type { Break } from '../time/calendar.ts';
import { HistoryFacts } from '../measures/facts/facts.ts';
import { zoneOf } from '../time/zone.ts';
import { parseRule, type Rule } from '../rules/rule.ts';
import type { ParseResult } from '../problem/problem.ts';

export const NEW_YORK = 'America/New_York';

/** Local New York time as an instant: `at('2026-09-01T14:03')`. */
export const at = (local: string): number => zoneOf(NEW_YORK).toInstant(Date.parse(`${local}:00Z`));

export function person(id: string, more: Partial<Person> = {}): Person {
  return {
    id,
    firstName: id.toUpperCase(),
    lastName: 'Test',
    email: `${id}@saltmarsh.example`,
    role: 'student',
    section: null,
    active: true,
    enrolledAt: at('2026-08-31T00:00'),
    paused: false,
    contacts: [],
    fields: {},
    ...more,
  };
}

export function item(id: string, more: Partial<Item> = {}): Item {
  return {
    id,
    title: id,
    kind: 'quiz',
    group: null,
    points: 20,
    opensAt: null,
    dueAt: null,
    topics: [],
    excused: [],
    extensions: [],
    ...more,
  };
}

export interface StorySpec {
  readonly people?: readonly Person[];
  readonly items?: readonly Item[];
  readonly breaks?: readonly Break[];
  readonly settings?: Partial<CourseSettings>;
  readonly groupWeights?: Readonly<Record<string, number>>;
  /** `[person, kind, local time, item?]` */
  readonly events?: readonly (readonly [string, EventKind, string, string?])[];
  /** `[person, item, points, local time]` */
  readonly grades?: readonly (readonly [string, string, number, string])[];
}

/** The course of the engine page's worked examples: from Monday 2026-08-31, one student enrolled then. */
export function courseOf(story: StorySpec = {}): Course {
  return makeCourse({
    code: 'NAV 120',
    title: 'Coastal Navigation',
    timeZone: NEW_YORK,
    start: '2026-08-31',
    end: '2026-12-18',
    breaks: story.breaks ?? [],
    groupWeights: story.groupWeights ?? null,
    marks: { mastery: 80 },
    settings: { quietHours: null, budget: null, ...story.settings },
    people: story.people ?? [person('p1')],
    items: story.items ?? [],
  });
}

export function factsOf(story: StorySpec = {}): HistoryFacts {
  const course = courseOf(story);
  const history = new History(course);
  for (const [who, kind, when, what] of story.events ?? []) {
    history.addEvent({ person: who, kind, item: what ?? null, at: at(when) });
  }
  for (const [who, what, points, when] of story.grades ?? []) {
    history.addGrade({ person: who, item: what, criterion: null, points, at: at(when) });
  }
  return new HistoryFacts(course, history);
}

/** A daily rule at 9:30 that is on: away for 5 days, once a spell, unless the draft says otherwise. */
export function ruleOf(draft: Record<string, unknown> = {}): Rule {
  const parsed = parseRule({
    id: 'away',
    name: 'Away',
    status: 'on',
    audience: { roles: ['student'] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' },
    repeat: { perSpell: 1 },
    steps: [{ deliver: 'send', to: ['student'], wording: 'gentle' }],
    ...draft,
  });
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
}

/** The value of a parse that must have gone well. */
export function valueOf<T>(parsed: ParseResult<T>): T {
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
}

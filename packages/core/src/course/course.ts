/** A course as the engine knows it: its dates, roster, items and limits. What happened in it is in `activity/`. */
import { courseCalendar, type Break, type CourseCalendar } from '../time/calendar.ts';
import type { Item } from './item.ts';
import type { Person } from './person.ts';

/** Hours `[from, to)` and whole weekdays in which nothing leaves (engine R8). */
export interface QuietHours {
  /** `HH:MM` local; left out together with `to` when only days are quiet. */
  readonly from?: string | null | undefined;
  readonly to?: string | null | undefined;
  /** RFC 5545 weekday codes. */
  readonly days?: readonly string[] | undefined;
}

/** At most `count` nudges to a student within the last `days`, over all rules (engine R7). */
export interface MessageBudget {
  readonly count: number;
  readonly days: number;
  /** Nothing passes it but essential rules: later steps are held to it, and nudges of any weight count. */
  readonly strict?: boolean | undefined;
}

export interface CourseSettings {
  readonly quietHours: QuietHours | null;
  readonly budget: MessageBudget | null;
}

export interface CourseFile {
  readonly code: string;
  readonly title: string;
  readonly timeZone: string;
  /** Local dates, both inclusive. */
  readonly start: string;
  readonly end: string;
  readonly breaks: readonly Break[];
  readonly groupWeights: Readonly<Record<string, number>> | null;
  readonly marks: Readonly<Record<string, number>>;
  /** Percent by letter grade; the common scale if the course has none of its own. */
  readonly letters?: Readonly<Record<string, number>> | null | undefined;
  /** The course's own page on the learning platform, if anybody said. */
  readonly url?: string | null | undefined;
}

export interface Course extends CourseFile {
  readonly settings: CourseSettings;
  readonly people: readonly Person[];
  readonly items: readonly Item[];
  /** Titles of items that were removed, or had no match when rules were carried over, by their ids, for whatever names them. */
  readonly formerItems?: Readonly<Record<string, string>> | undefined;
  readonly calendar: CourseCalendar;
  readonly personIndex: ReadonlyMap<string, number>;
  readonly itemIndex: ReadonlyMap<string, number>;
}

export interface CourseParts extends CourseFile {
  readonly settings: CourseSettings;
  readonly people: readonly Person[];
  readonly items: readonly Item[];
  /** Titles of items that were removed, or had no match when rules were carried over, by their ids, for whatever names them. */
  readonly formerItems?: Readonly<Record<string, string>> | undefined;
}

/** Adds the look-ups that every measure needs. Throws a RangeError for an unknown time zone. */
export function makeCourse(parts: CourseParts): Course {
  return {
    ...parts,
    calendar: courseCalendar(parts),
    personIndex: new Map(parts.people.map((p, i) => [p.id, i])),
    itemIndex: new Map(parts.items.map((p, i) => [p.id, i])),
  };
}

/** What an item was called that is not there; null for one of which nobody knows. */
export const formerTitle = (former: Course['formerItems'], id: string): string | null =>
  former !== undefined && Object.hasOwn(former, id) ? former[id]! : null;

/** The due instant of an item for a person: own extension, else the section's, else the item's (engine H5). */
export function dueFor(item: Item, person: Person): number | null {
  const own = item.extensions.find((e) => e.person === person.id);
  if (own) return own.dueAt;
  const section = person.section === null ? undefined : item.extensions.find((e) => e.section === person.section);
  return section ? section.dueAt : item.dueAt;
}

/** Whether an item counts for a person: not excused, and not due at or before they enrolled (engine H6). */
export function counts(item: Item, person: Person): boolean {
  if (item.excused.includes(person.id)) return false;
  const due = dueFor(item, person);
  return due === null || due > person.enrolledAt;
}

/** Where a student's story starts: the later of the course's start and their enrolment (engine H4). */
export const storyStart = (course: Course, person: Person): number =>
  Math.max(course.calendar.start, person.enrolledAt);

/** What starters are put together from: the item an instructor most likely means, rhythms, and a sound rule around them. */
import type { Course } from '../course/course.ts';
import type { Item, ItemKind } from '../course/item.ts';
import type { Condition } from '../conditions/condition.ts';
import { dateOf, weekdayIndex } from '../time/calendar.ts';
import { DAY, MINUTE, type Instant } from '../time/instant.ts';
import type { Rhythm } from '../time/rhythm.ts';
import type { Rule, Step } from '../rules/rule.ts';
import { WEEKDAYS, type Weekday } from '../time/weekday.ts';

export const ON_WEEKDAYS = 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR';

export const dateAt = (course: Course, t: Instant): string => dateOf(course.calendar.dayNumber(t));

/** The date of an instant, or the course's last one: what is due after the course is no longer asked for. */
export const lastDayOf = (course: Course, t: Instant): string => {
  const date = dateAt(course, t);
  return date < course.end ? date : course.end;
};

/** The first day of a rule that begins today, or with the course. */
export const firstDay = (course: Course, now: Instant): string => {
  const today = dateAt(course, now);
  const begun = today > course.start ? today : course.start;
  // A course that is over has no first day to come: no run ends before it begins.
  return begun < course.end ? begun : course.end;
};

export const weekdayOf = (course: Course, t: Instant): Weekday => WEEKDAYS[weekdayIndex(course.calendar.dayNumber(t))]!;

export const dayBefore = (day: Weekday): Weekday => WEEKDAYS[(WEEKDAYS.indexOf(day) + 6) % 7]!;

/** The local time of day of an instant, `HH:MM`. */
export function timeOfDay(course: Course, t: Instant): string {
  const minutes = Math.floor((course.calendar.zone.toWall(t) - course.calendar.dayNumber(t) * DAY) / MINUTE);
  return `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
}

const ofKinds = (course: Course, kinds: readonly ItemKind[]) => course.items.filter((i) => kinds.includes(i.kind));

/** The next item of the kinds to fall due after `now`, on a day of the course; undefined when none is to come. */
export const nextDue = (course: Course, now: Instant, kinds: readonly ItemKind[]): DueItem | undefined =>
  byDue(course, kinds).find((i) => i.dueAt > now);
export type DueItem = Item & { readonly dueAt: Instant };

export const lastDue = (course: Course, kinds: readonly ItemKind[]): DueItem | undefined => byDue(course, kinds).at(-1);

const byDue = (course: Course, kinds: readonly ItemKind[]): DueItem[] =>
  ofKinds(course, kinds)
    .filter((i): i is DueItem => i.dueAt !== null)
    .sort((a, b) => a.dueAt - b.dueAt);

/** How long after its due instant most of an item is graded, in days: common practice, no source. */
const GRADED_AFTER = 4;

/** The latest item of the kinds that is likely graded by now, else the latest that is due, else the first one at all. */
export function latestGraded(course: Course, now: Instant, kinds: readonly ItemKind[]): Item | undefined {
  const due = byDue(course, kinds);
  const by = (t: Instant) => due.filter((i) => i.dueAt <= t).at(-1);
  return by(course.calendar.addDays(now, -GRADED_AFTER)) ?? by(now) ?? ofKinds(course, kinds)[0];
}

/** A page that is named like a syllabus, or the first page. */
export const syllabusOf = (course: Course): Item | undefined =>
  course.items.find((i) => i.kind === 'page' && /syllabus/i.test(i.title)) ?? ofKinds(course, ['page'])[0];

/** The group that most items of the kinds are in, as a parameter; the items themselves when they are in none. */
export function groupWith(
  course: Course,
  kinds: readonly ItemKind[],
): { group: string } | { items: string[] } | undefined {
  const items = ofKinds(course, kinds);
  if (items.length === 0) return undefined;
  const counted = new Map<string, number>();
  for (const i of items) if (i.group !== null) counted.set(i.group, (counted.get(i.group) ?? 0) + 1);
  const [best] = [...counted].sort((a, b) => b[1] - a[1]);
  return best ? { group: best[0] } : { items: items.map((i) => i.id) };
}

export const toStudent = (wording: string, more: Partial<Step> = {}): Step => ({
  after: { days: 0, hours: 0 },
  deliver: 'send',
  to: ['student'],
  wording,
  ...more,
});

export const rhythm = (start: string, rrule: string, until: string | null): Rhythm => ({
  start,
  rrule,
  until,
  skipBreaks: true,
});

export function ruleWith(parts: {
  name: string;
  label: string;
  note: string;
  when: Condition;
  rhythm: Rhythm;
  steps: readonly Step[];
  repeat?: Partial<Rule['repeat']>;
  weight?: Rule['weight'];
}): { readonly ok: true; readonly rule: Rule } {
  return {
    ok: true,
    rule: {
      id: 'new',
      status: 'draft',
      audience: { roles: ['student'], sections: [], except: [] },
      essential: false,
      weight: 'normal',
      spellsFrom: null,
      ...parts,
      repeat: { perSpell: null, perTerm: null, gap: null, ...parts.repeat },
    },
  };
}

export const needs = (what: string): { readonly ok: false; readonly needs: string } => ({ ok: false, needs: what });

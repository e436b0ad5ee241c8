/** A course as it would go on if every student did in the coming days what they did in the last two weeks. */
import { kindMask, type EventKind } from '../../activity/event.ts';
import { fromColumns, toColumns } from '../../activity/columns.ts';
import { itemOfCode, kindBitOf, kindOfCode } from '../../activity/actCode.ts';
import type { PersonLog } from '../../activity/history.ts';
import type { Course } from '../../course/course.ts';
import type { Item } from '../../course/item.ts';
import { isActiveStudent } from '../../course/person.ts';
import { HistoryFacts } from '../../measures/facts/facts.ts';
import { HOUR, type Instant } from '../../time/instant.ts';

/** Calendar days that are repeated. */
const REPEATED_DAYS = 14;

/** What one does again and again; work is turned in once, and sessions are attended once. */
const HABITS: readonly EventKind[] = ['signIn', 'visit', 'open', 'practice', 'post'];
const HABIT_MASK = kindMask(...HABITS);
const SUBMISSIONS = kindMask('submit');

/**
 * The same facts with made-up events in `(now, until]`. Visits, sign-ins, opened pages, practice and posts of the last 14
 * calendar days come again 14 days later, and so on. Work that falls due ahead is turned in as the work before was: the first
 * like the first of the last 14 days, as long before or after the item's due instant, and not at all where that was not turned in.
 * Grades, attendance and completed items stay as they are.
 */
export function repeatedFacts(facts: HistoryFacts, now: Instant, until: Instant): HistoryFacts {
  const { course, history } = facts;
  const copy = fromColumns(toColumns(history));
  const coming = comingWork(course, now, until);
  const batch = {
    people: [] as string[],
    kinds: [] as EventKind[],
    items: [] as (string | null)[],
    times: [] as Instant[],
  };
  const add = (person: string, kind: EventKind, item: string | null, at: Instant) => {
    batch.people.push(person);
    batch.kinds.push(kind);
    batch.items.push(item);
    batch.times.push(at);
  };
  for (const person of course.people.filter(isActiveStudent)) {
    const log = history.logOf(person.id);
    repeatHabits(log, course, now, until, (code, at) => {
      const item = itemOfCode(code);
      add(person.id, kindOfCode(code), item < 0 ? null : history.itemKeys.all[item]!, at);
    });
    for (const { ahead, before } of coming) {
      const done = firstSubmitted(log, history.itemKeys.find(before.id));
      if (done > now || firstSubmitted(log, history.itemKeys.find(ahead.id)) <= now) continue;
      // Who is always earlier than this has it left to do, and does it next.
      const at = Math.max(now + HOUR, ahead.dueAt! + (done - before.dueAt!));
      if (at <= until) add(person.id, 'submit', ahead.id, at);
    }
  }
  copy.addEvents(batch);
  return new HistoryFacts(course, copy, until);
}

const firstSubmitted = (log: PersonLog, item: number | null): Instant =>
  item === null ? Infinity : log.first(SUBMISSIONS, item);

function repeatHabits(
  log: PersonLog,
  { calendar }: Course,
  now: Instant,
  until: Instant,
  add: (code: number, at: Instant) => void,
): void {
  const from = calendar.addDays(now, -REPEATED_DAYS);
  for (let i = 0; i < log.length; i++) {
    const at = log.times[i]!;
    if (at <= from || at > now || (kindBitOf(log.codes[i]!) & HABIT_MASK) === 0) continue;
    for (let days = REPEATED_DAYS; ; days += REPEATED_DAYS) {
      const again = calendar.addDays(at, days);
      if (again > until) break;
      add(log.codes[i]!, again);
    }
  }
}

/** Work that falls due in `(now, until]`, each with the work of the last days that it is done like; nothing where there was none. */
function comingWork(course: Course, now: Instant, until: Instant): { readonly ahead: Item; readonly before: Item }[] {
  const due = course.items.filter((i) => i.dueAt !== null).toSorted((a, b) => a.dueAt! - b.dueAt!);
  const from = course.calendar.addDays(now, -REPEATED_DAYS);
  const past = due.filter((i) => i.dueAt! > from && i.dueAt! <= now);
  if (past.length === 0) return [];
  return due
    .filter((i) => i.dueAt! > now && i.dueAt! <= until)
    .map((ahead, i) => ({ ahead, before: past[i % past.length]! }));
}

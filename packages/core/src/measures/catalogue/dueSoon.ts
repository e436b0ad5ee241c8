import { numberFrom } from '../../problem/range.ts';
import { numberIn } from '../../problem/rangeSchema.ts';
import type { CourseCalendar } from '../../time/calendar.ts';
import { DAYS_RANGE, LONGEST_HOURS } from '../../time/duration.ts';
import { DAY, HOUR, type Instant } from '../../time/instant.ts';
import { exactWords } from '../../time/words.ts';
import { type Measure, type MeasureCall, countWords } from '../values/measure.ts';
import { countingItems, doneBy, severalParameters, severalWords } from './several.ts';
import { openStretches } from '../values/openStretches.ts';

/**
 * From when on something due at `due` is due soon: with `hours` that long before, with `days` from 00:00 of the day that many
 * calendar days before its own, so that 0 is today and 1 is tomorrow also across a clock change.
 */
export function dueSoonFrom(
  due: Instant,
  call: Pick<MeasureCall, 'hours' | 'days'>,
  calendar: Pick<CourseCalendar, 'zone' | 'dayNumber'>,
): Instant {
  if (call.days !== undefined) return calendar.zone.toInstant((calendar.dayNumber(due) - call.days) * DAY);
  return due - Math.round((call.hours ?? 0) * HOUR);
}

/** "within 31 hours", "today", "by tomorrow". */
function soonWords({ hours, days }: Pick<MeasureCall, 'hours' | 'days'>): string {
  if (days === undefined) return `within ${exactWords(hours ?? 0)} ${hours === 1 ? 'hour' : 'hours'}`;
  return days === 0 ? 'today' : days === 1 ? 'by tomorrow' : `within ${days} days`;
}

const WITHIN = { hours: numberFrom(0.1, LONGEST_HOURS), days: DAYS_RANGE };

/** Items that count, are not done, and fall due within that many hours, or by the calendar day that many days ahead. */
export const dueSoon: Measure = {
  name: 'dueSoon',
  mergeField: 'student.due_soon_count',
  family: 'work',
  unit: 'count',
  title: 'Items due soon and not done',
  parameters: {
    hours: numberIn(WITHIN.hours).optional(),
    days: numberIn(WITHIN.days).optional(),
    ...severalParameters,
  },
  ranges: WITHIN,
  exactlyOneOf: ['hours', 'days'],
  timeline(subject, call) {
    const items = countingItems(subject, call);
    const open = openStretches();
    for (const item of items) {
      if (item.due === null) continue;
      const from = dueSoonFrom(item.due, call, subject.course.calendar);
      const until = Math.min(item.due, item.act, item.credit);
      if (until > from) open.add(from, until);
    }
    return open.stepsFrom(subject.story);
  },
  fact: (subject, call, t) => ({
    kind: 'items',
    what: 'dueSoon',
    items: countingItems(subject, call)
      .filter((i) => {
        if (i.due === null || i.due <= t || doneBy(i, t)) return false;
        return dueSoonFrom(i.due, call, subject.course.calendar) <= t;
      })
      .map((i) => ({ title: i.title, dueAt: i.due })),
  }),
  label: (call, course) => `items due ${soonWords(call)}${severalWords(call, course)}`,
  clause(test, call, course) {
    const where = severalWords(call, course);
    const what = `due ${soonWords(call)} and not done`;
    if (test.is === '>=' && test.raw === 1) return { lead: 'have', marked: `something${where} ${what}` };
    return { lead: 'have', marked: `${countWords(test, 'item')}${where} ${what}` };
  },
  known: (call, course) => {
    const what = `items${severalWords(call, course)} due ${soonWords(call)}`;
    return [`no known ${what}`, `a known number of ${what}`];
  },
  phrases: [
    { say: 'something|anything {several} due {soon} [and not done]', is: '>=', value: 1 },
    '{n:item|items} {several} due {soon} [and not done]',
    { say: 'nothing {several} due {soon}', is: '<', value: 1 },
    { say: 'no known items {several} due {soon}', is: 'empty' },
    { say: 'known number of items {several} due {soon}', is: 'filled' },
  ],
};

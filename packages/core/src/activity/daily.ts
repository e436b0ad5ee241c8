/** How much each student did on each day of the term, for the small charts of a table. */
import type { Course } from '../course/course.ts';
import { DAY } from '../time/instant.ts';
import { dayNumberOf } from '../time/calendar.ts';
import { kindBitOf } from './actCode.ts';
import { PARTICIPATION, VISITS } from './event.ts';
import type { History } from './history.ts';
import { pack, unpack } from './packed.ts';

export interface DailyActivity {
  /** Local date of the first day. */
  readonly from: string;
  readonly days: number;
  /** Person by person in roster order, day by day: events of the course, at most 255. */
  readonly events: Uint8Array;
  /** The same of practice, submissions and posts. */
  readonly work: Uint8Array;
}

export function dailyActivity(course: Course, history: History): DailyActivity {
  const { calendar } = course;
  const first = dayNumberOf(course.start);
  const days = dayNumberOf(course.end) - first + 1;
  const bounds = Float64Array.from({ length: days + 1 }, (_, d) => calendar.zone.toInstant((first + d) * DAY));
  const events = new Uint8Array(course.people.length * days);
  const work = new Uint8Array(course.people.length * days);
  course.people.forEach((person, p) => {
    const { times, codes, length } = history.logOf(person.id);
    let day = 0;
    for (let i = 0; i < length; i++) {
      const at = times[i]!;
      if (at < bounds[0]!) continue;
      while (day < days && at >= bounds[day + 1]!) day++;
      if (day === days) break;
      const bit = kindBitOf(codes[i]!);
      if ((bit & VISITS) === 0) continue;
      const cell = p * days + day;
      if (events[cell]! < 255) events[cell]!++;
      if ((bit & PARTICIPATION) !== 0 && work[cell]! < 255) work[cell]!++;
    }
  });
  return { from: course.start, days, events, work };
}

export const packDaily = ({ from, days, events, work }: DailyActivity): Uint8Array<ArrayBuffer> =>
  pack({ from, days }, [events, work]);

/** Null for bytes that are no such table. */
export function unpackDaily(packed: Uint8Array): DailyActivity | null {
  const found = unpack(packed);
  if (found?.columns.length !== 2) return null;
  const { from, days } = found.about as Pick<DailyActivity, 'from' | 'days'>;
  const [events, work] = found.columns as [Uint8Array, Uint8Array];
  return { from, days, events, work };
}

/** How late a nudge can be: what a rhythm does to the moment at which a student is heard of (engine R12). */
import { weekdayIndex, type CourseCalendar } from '../../time/calendar.ts';
import { DAY, HOUR, type Instant } from '../../time/instant.ts';
import { roundInstants, type Rhythm } from '../../time/rhythm.ts';

export interface NoticeTime {
  /** Mean wait in hours for a student with a spell that starts at a random moment: Σg² ÷ 2Σg, where nothing delays decisions. */
  readonly mean: number;
  /** The longest wait in hours, breaks left out. */
  readonly longest: number;
  /** The longest gap between two rounds that spans a break, in hours by the clock; null when none does. */
  readonly overABreak: number | null;
  /** The most frequent gap in hours; of equally frequent ones the shorter. */
  readonly usual: number;
  /** Whether the longest gap is a weekend's: from a Thursday or Friday to a Monday or Tuesday. */
  readonly overAWeekend: boolean;
}

/**
 * Null while fewer than two rounds are left in the run. Gaps are taken in course time: breaks are told apart. `leaves`: when what a round
 * decides is on its way, which quiet hours may delay.
 */
export function noticeOf(
  rhythm: Rhythm,
  calendar: CourseCalendar,
  leaves: (round: Instant) => Instant = (round) => round,
): NoticeTime | null {
  const rounds = roundInstants(rhythm, calendar);
  if (rounds.length < 2) return null;
  let sum = 0;
  let squares = 0;
  let longest = 0;
  let overABreak: number | null = null;
  let overAWeekend = false;
  const frequency = new Map<number, number>();
  for (let i = 1; i < rounds.length; i++) {
    const from = rounds[i - 1]!;
    const until = leaves(rounds[i]!);
    const paused = breakTime(calendar, from, until);
    const gap = (until - from - paused) / HOUR;
    const between = (rounds[i]! - from - breakTime(calendar, from, rounds[i]!)) / HOUR;
    sum += between;
    squares += between * (2 * gap - between);
    // An hour more or less is a clock change, not another rhythm.
    const length = gap >= 23 ? Math.round(gap / 24) * 24 : gap;
    frequency.set(length, (frequency.get(length) ?? 0) + 1);
    if (gap > longest) overAWeekend = spansWeekend(calendar, from, until);
    longest = Math.max(longest, gap);
    if (paused > 0) overABreak = Math.max(overABreak ?? 0, (until - from) / HOUR);
  }
  const [usual] = [...frequency].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]!;
  return { mean: squares / (2 * sum), longest, overABreak, usual, overAWeekend };
}

const weekdayOf = (calendar: CourseCalendar, t: Instant): number => weekdayIndex(calendar.dayNumber(t));

function spansWeekend(calendar: CourseCalendar, from: Instant, until: Instant): boolean {
  const days = calendar.dayNumber(until) - calendar.dayNumber(from);
  return days <= 5 && [3, 4].includes(weekdayOf(calendar, from)) && [0, 1].includes(weekdayOf(calendar, until));
}

/** How much of `[from, until)` lies on break dates, in ms. */
function breakTime(calendar: CourseCalendar, from: Instant, until: Instant): number {
  let paused = 0;
  for (let day = calendar.dayNumber(from); day <= calendar.dayNumber(until); day++) {
    if (!calendar.isBreakDay(day)) continue;
    const start = Math.max(from, calendar.zone.toInstant(day * DAY));
    const end = Math.min(until, calendar.zone.toInstant((day + 1) * DAY));
    paused += Math.max(0, end - start);
  }
  return paused;
}

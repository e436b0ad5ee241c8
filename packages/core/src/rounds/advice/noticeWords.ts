/** The notice time in words: how long it takes a rule to notice a student who meets its condition. */
import type { Course } from '../../course/course.ts';
import { isAbsence } from '../../measures/values/measure.ts';
import { groupOf, isLeaf, type Condition, type Leaf } from '../../conditions/condition.ts';
import { thresholdOf } from '../../conditions/compare.ts';
import { tellsOthersOnly, type Rule } from '../../rules/rule.ts';
import { roundInstants } from '../../time/rhythm.ts';
import type { Instant } from '../../time/instant.ts';
import { plural } from '../../time/words.ts';
import { firstOpen } from '../decide/quietHours.ts';
import { noticeOf, type NoticeTime } from './notice.ts';

/** An absence that the whole condition waits for: on which whole day it is reached. */
export interface AbsenceAsked {
  readonly leaf: Leaf;
  readonly days: number;
}

/** The absence that a condition asks for, alone or together with others; null where it asks for none or offers a choice. */
export function absenceAsked(condition: Condition, course: Course): AbsenceAsked | null {
  if (isLeaf(condition)) {
    const value = thresholdOf(condition, course.marks);
    if (!isAbsence(condition.measure) || typeof value !== 'number') return null;
    if (condition.is === '>=') return { leaf: condition, days: Math.ceil(value) };
    return condition.is === '>' ? { leaf: condition, days: Math.floor(value) + 1 } : null;
  }
  const { kind, children } = groupOf(condition);
  if (kind !== 'all') return null;
  const asked = children.flatMap((c) => absenceAsked(c, course) ?? []);
  return asked.sort((a, b) => b.days - a.days)[0] ?? null;
}

export function noticeWords(rule: Rule, course: Course): string {
  const leaves = (round: Instant) => firstOpen(round, course.settings.quietHours, course);
  const notice = noticeOf(rule.rhythm, course.calendar, leaves);
  if (!notice) {
    const looks = roundInstants(rule.rhythm, course.calendar).length;
    return looks === 0 ? 'This rule never runs.' : 'This rule runs once. Students who match later are not found.';
  }
  const asked = absenceAsked(rule.when, course);
  const span = asked === null ? waitWords(notice) : dayWords(asked.days + rule.steps[0]!.after.days, notice);
  const pause = notice.overABreak === null ? '' : ' A break adds to this.';
  return `${tellsOthersOnly(rule) ? 'You hear of a student' : 'A student is nudged'} ${span}.${pause}`;
}

const daysOf = (hours: number): number => Math.ceil(Math.round((hours / 24) * 100) / 100 - 0.05);

/** "on day 5, or by day 8 over a weekend": days of the absence itself, as the measure counts them. */
function dayWords(day: number, notice: NoticeTime): string {
  const usual = daysOf(notice.usual);
  const longest = daysOf(notice.longest);
  const span = usual <= 1 ? `on day ${day}` : `between day ${day} and day ${day + usual}`;
  return longest > usual ? `${span}, or by day ${day + longest} ${occasion(notice)}` : span;
}

/** "within a day, or within 3 days over a weekend" */
function waitWords(notice: NoticeTime): string {
  const usual = `within ${lengthWords(notice.usual)}`;
  if (daysOf(notice.longest) <= Math.max(1, daysOf(notice.usual))) return usual;
  return `${usual}, or within ${lengthWords(notice.longest)} ${occasion(notice)}`;
}

const occasion = (notice: NoticeTime): string => (notice.overAWeekend ? 'over a weekend' : 'at the latest');

function lengthWords(hours: number): string {
  if (hours < 23) return hours === 1 ? 'an hour' : plural(Math.round(hours), 'hour');
  const days = daysOf(hours);
  return days === 1 ? 'a day' : plural(days, 'day');
}

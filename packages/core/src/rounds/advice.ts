/**
 * What a rule's own numbers do to each other: a threshold against its rhythm, a first round before anyone can meet it, a
 * run without end. It advises and never forbids.
 */
import type { Course } from '../course/course.ts';
import { boundsOf } from '../conditions/bounds.ts';
import { leavesOf, type Leaf } from '../conditions/condition.ts';
import { difference, durationHours } from '../time/duration.ts';
import { DAY, type Instant } from '../time/instant.ts';
import { roundInstants } from '../time/rhythm.ts';
import { dateWords, dayWords, durationWords, plural } from '../time/words.ts';
import { plainRhythm } from '../rules/rhythmWords.ts';
import { tellsOthersOnly, type Rule } from '../rules/rule.ts';
import { noticeOf } from './notice.ts';
import { absenceAsked } from './noticeWords.ts';

export interface Advice {
  readonly code: AdviceCode;
  /** The part of the rule that it is about. */
  readonly about: 'rhythm' | 'run' | 'condition' | 'repeat' | 'steps';
  readonly message: string;
}
export type AdviceCode =
  | 'noRoundLeft'
  | 'beforeAnyone'
  | 'afterAnyone'
  | 'notOpenYet'
  | 'noEnd'
  | 'lateNotice'
  | 'everyRound'
  | 'termTooShort'
  | 'gapLongerThanStep';

type Adviser = (rule: Rule, course: Course, coming: readonly Instant[]) => Advice | null;

/** `now`: rounds before it are past and not spoken of. */
export function adviceOn(rule: Rule, course: Course, now: Instant): Advice[] {
  const coming = roundInstants(rule.rhythm, course.calendar, now);
  if (coming.length === 0) {
    return [{ code: 'noRoundLeft', about: 'run', message: 'This rule has no rounds left. Choose a later last day.' }];
  }
  return ADVISERS.flatMap((advise) => advise(rule, course, coming) ?? []);
}

const ADVISERS: readonly Adviser[] = [
  beforeAnyone,
  notOpenYet,
  afterAnyone,
  noEnd,
  lateNotice,
  everyRound,
  termTooShort,
  gapLongerThanStep,
];

function beforeAnyone(rule: Rule, course: Course, coming: readonly Instant[]): Advice | null {
  const { earliest } = boundsOf(rule.when, course);
  if (coming[0]! >= earliest) return null;
  const zone = course.timeZone;
  const message = `This rule first runs on ${dayWords(coming[0]!, zone)}, but no student can match before ${dayWords(earliest, zone)}.`;
  return { code: 'beforeAnyone', about: 'run', message };
}

const ASKS_FOR_NOTHING: Readonly<Partial<Record<Leaf['measure'], string>>> = {
  submitted: 'turned it in',
  opens: 'opened it',
  completed: 'completed it',
};

/** "Not submitted" is true of everyone before there is anything to submit. */
function notOpenYet(rule: Rule, course: Course, coming: readonly Instant[]): Advice | null {
  for (const leaf of leavesOf(rule.when)) {
    const done = ASKS_FOR_NOTHING[leaf.measure];
    const item = course.items[course.itemIndex.get(leaf.item ?? '') ?? -1];
    const asksForNone = leaf.value === false || leaf.value === 0;
    if (!done || !asksForNone || leaf.is !== 'equals' || !item?.opensAt || item.opensAt <= coming[0]!) continue;
    const message = `“${item.title}” opens on ${dayWords(item.opensAt, course.timeZone)}; until then nobody can have ${done}, and every student would be nudged.`;
    return { code: 'notOpenYet', about: 'run', message };
  }
  return null;
}

function afterAnyone(rule: Rule, course: Course, coming: readonly Instant[]): Advice | null {
  const { latest } = boundsOf(rule.when, course);
  const last = coming.at(-1)!;
  if (latest === Infinity || last < latest + DAY) return null;
  const message = `No student can match after ${dayWords(latest, course.timeZone)}, but this rule runs until ${dayWords(last, course.timeZone)}.`;
  return { code: 'afterAnyone', about: 'run', message };
}

function noEnd(rule: Rule, course: Course): Advice | null {
  if (rule.rhythm.until) return null;
  return {
    code: 'noEnd',
    about: 'run',
    message: `This rule has no last day of its own. It runs until the course ends on ${dateWords(course.end)}.`,
  };
}

function lateNotice(rule: Rule, course: Course): Advice | null {
  const asked = absenceAsked(rule.when, course);
  const notice = noticeOf(rule.rhythm, course.calendar);
  if (!asked || !notice || asked.days === 0) return null;
  // A weekend's wait is said with the notice span; it is no fault of the rhythm.
  const gap = notice.overAWeekend ? notice.usual : notice.longest;
  if (gap < asked.days * 24 - 1) return null;
  const late = asked.days + Math.ceil(gap / 24 - 0.05);
  const message = `An absence of ${plural(asked.days, 'day')} may be noticed as late as day ${late}. Looking every day notices it on day ${asked.days}.`;
  return { code: 'lateNotice', about: 'rhythm', message };
}

/** Looked at daily without a limit, an absence of five days nags on days 5, 6 and 7 (engine R12). */
function everyRound(rule: Rule, course: Course): Advice | null {
  const { repeat } = rule;
  const notice = noticeOf(rule.rhythm, course.calendar);
  if (!notice || notice.usual >= 6 * 24 || plainRhythm(rule.rhythm)?.every === 'once') return null;
  const gap = repeat.gap === null ? 0 : durationHours(repeat.gap);
  if (repeat.perSpell !== null || repeat.perTerm !== null || gap > notice.usual) return null;
  const asked = absenceAsked(rule.when, course);
  const often =
    asked && notice.usual <= 24
      ? `on days ${asked.days}, ${asked.days + 1}, ${asked.days + 2} and so on`
      : `at every round, ${notice.usual < 24 ? 'several times a day' : notice.usual <= 24 ? 'every day' : `every ${plural(Math.round(notice.usual / 24), 'day')}`}`;
  return {
    code: 'everyRound',
    about: 'repeat',
    message: tellsOthersOnly(rule)
      ? `Without a limit, you are told of the same student ${often}.`
      : `Without a limit, the same student is nudged ${often}.`,
  };
}

function termTooShort(rule: Rule): Advice | null {
  const { perTerm } = rule.repeat;
  if (perTerm === null || perTerm >= rule.steps.length) return null;
  const message = `At most ${plural(perTerm, 'nudge')} a term never comes to step ${perTerm + 1}.`;
  return { code: 'termTooShort', about: 'steps', message };
}

function gapLongerThanStep(rule: Rule): Advice | null {
  const { gap } = rule.repeat;
  if (gap === null) return null;
  for (let i = 1; i < rule.steps.length; i++) {
    const distance = difference(rule.steps[i]!.after, rule.steps[i - 1]!.after);
    if (durationHours(distance) >= durationHours(gap)) continue;
    const message = `Step ${i + 1} comes ${durationWords(distance)} after the one before, but “at most every ${durationWords(gap)}” holds it back.`;
    return { code: 'gapLongerThanStep', about: 'steps', message };
  }
  return null;
}

/**
 * What a rule's own numbers do to each other: a threshold against its rhythm, a first round before anyone can meet it, a
 * run without end. It advises and never forbids.
 */
import type { Course, MessageBudget } from '../../course/course.ts';
import { boundsOf } from '../../conditions/bounds.ts';
import { leavesOf, type Condition, type Leaf } from '../../conditions/condition.ts';
import { difference, durationHours } from '../../time/duration.ts';
import { DAY, type Instant } from '../../time/instant.ts';
import { roundInstants } from '../../time/rhythm.ts';
import { dateWords, dayWords, durationWords, instantWords, numberWords, plural } from '../../time/words.ts';
import { plainRhythm } from '../../rules/rhythmWords.ts';
import { isAlert, RULE_WEIGHTS, tellsOthersOnly, type Rule } from '../../rules/rule.ts';
import { noticeOf } from './notice.ts';
import { firstOpen, isQuiet } from '../decide/quietHours.ts';
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
  | 'gapLongerThanStep'
  | 'budgetStopsStep'
  | 'budgetTaken'
  | 'budgetBetweenRounds'
  | 'quietRounds'
  | 'sameCondition'
  | 'eitherWay';

/** Advice that a later step, or the rule itself, never goes: it is said before anything else. */
export const STOPS: readonly AdviceCode[] = ['termTooShort', 'gapLongerThanStep', 'budgetStopsStep', 'budgetTaken'];

type Adviser = (rule: Rule, course: Course, coming: readonly Instant[], others: readonly Rule[]) => Advice | null;

/** `now`: rounds before it are past and not spoken of. `others`: the course's other rules that are on. */
export function adviceOn(rule: Rule, course: Course, now: Instant, others: readonly Rule[] = []): Advice[] {
  const coming = roundInstants(rule.rhythm, course.calendar, now);
  if (coming.length === 0) {
    return [{ code: 'noRoundLeft', about: 'run', message: 'This rule has no checks left. Choose a later last day.' }];
  }
  const on = others.filter((r) => r.id !== rule.id && r.status === 'on');
  return ADVISERS.flatMap((advise) => advise(rule, course, coming, on) ?? []);
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
  budgetStopsStep,
  budgetTaken,
  budgetBetweenRounds,
  quietRounds,
  sameCondition,
  eitherWay,
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
      : `at every check, ${notice.usual < 24 ? 'several times a day' : notice.usual <= 24 ? 'every day' : `every ${plural(Math.round(notice.usual / 24), 'day')}`}`;
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

/** Whether a rule's nudges are held to the message budget. */
const isHeldToBudget = (rule: Rule, course: Course): boolean =>
  course.settings.budget !== null && !rule.essential && !tellsOthersOnly(rule);

/** “1 nudge in 7 days”. */
export const budgetWords = ({ count, days }: MessageBudget): string =>
  `${plural(count, 'nudge')} in ${plural(days, 'day')}`;

/** Under a strict budget the first step uses up what the second one needs. */
function budgetStopsStep(rule: Rule, course: Course): Advice | null {
  const { budget } = course.settings;
  if (!budget?.strict || budget.count > 1 || !isHeldToBudget(rule, course)) return null;
  for (let i = 1; i < rule.steps.length; i++) {
    const distance = difference(rule.steps[i]!.after, rule.steps[i - 1]!.after);
    if (isAlert(rule.steps[i]!) || isAlert(rule.steps[i - 1]!) || durationHours(distance) >= budget.days * 24) continue;
    const message = `Step ${i + 1} comes ${durationWords(distance)} after the one before, but the message budget (${budgetWords(budget)}, for every step) holds it back.`;
    return { code: 'budgetStopsStep', about: 'steps', message };
  }
  return null;
}

/** A rule on a longer absence never writes while one on a shorter absence uses up the budget first. */
function budgetTaken(rule: Rule, course: Course, _coming: readonly Instant[], others: readonly Rule[]): Advice | null {
  const { budget } = course.settings;
  const own = absenceAsked(rule.when, course);
  if (!own || !budget || budget.count > 1 || !isHeldToBudget(rule, course)) return null;
  for (const other of others) {
    const theirs = absenceAsked(other.when, course);
    if (!theirs || theirs.leaf.measure !== own.leaf.measure || tellsOthersOnly(other)) continue;
    // Anyone who meets this rule has met the other one: it asks for the shorter absence and nothing else, of the same people.
    if (!asksOneThing(other.when) || !isSameAudience(rule, other)) continue;
    const looks = noticeOf(other.rhythm, course.calendar);
    const weighs = budget.strict || RULE_WEIGHTS.indexOf(other.weight) >= RULE_WEIGHTS.indexOf(rule.weight);
    const earlier = own.days + rule.steps[0]!.after.days - theirs.days - other.steps[0]!.after.days;
    if (!weighs || !looks || looks.longest > earlier * 24 || earlier <= 0 || earlier >= budget.days) continue;
    const message = `“${other.name}” writes to the same students ${plural(earlier, 'day')} earlier and uses up the message budget (${budgetWords(budget)}), so this rule would send them nothing. Make it a later step of that rule instead.`;
    return { code: 'budgetTaken', about: 'steps', message };
  }
  return null;
}

/** Rounds that come closer together than the budget lets one student hear. */
function budgetBetweenRounds(rule: Rule, course: Course): Advice | null {
  const { budget } = course.settings;
  const { perSpell, perTerm, gap } = rule.repeat;
  if (!budget || !isHeldToBudget(rule, course) || perSpell === 1 || perTerm === 1) return null;
  const rhythm = plainRhythm(rule.rhythm);
  const notice = noticeOf(rule.rhythm, course.calendar);
  if (!notice || rhythm?.every === 'once') return null;
  const between = Math.max(notice.usual, gap === null ? 0 : durationHours(gap));
  if (between * budget.count >= budget.days * 24 - 1) return null;
  const rounds =
    rhythm?.every === 'week' && rhythm.days.length > 1
      ? `each of ${plural(rhythm.days.length, 'check')} a week`
      : 'each check';
  const message = `The message budget allows ${budgetWords(budget)}, so the same student is not nudged at ${rounds}.`;
  return { code: 'budgetBetweenRounds', about: 'repeat', message };
}

/** Rounds on quiet days or in quiet hours: what they decide leaves later, or never. */
function quietRounds(rule: Rule, course: Course, coming: readonly Instant[]): Advice | null {
  const { quietHours } = course.settings;
  if (!quietHours) return null;
  const quiet = coming.filter((t) => isQuiet(t, quietHours, course));
  if (quiet.length === 0 || quiet.length * 3 < coming.length) return null;
  const [first] = quiet;
  const zone = course.timeZone;
  const leaves = firstOpen(first!, quietHours, course);
  const message = `${quiet.length === coming.length ? 'Every check falls' : `${numberWords(quiet.length)} of ${plural(coming.length, 'check')} fall`} in quiet hours or days: what is decided ${instantWords(first!, zone)} leaves ${instantWords(leaves, zone)}.`;
  return { code: 'quietRounds', about: 'rhythm', message };
}

/** The same condition twice finds the same students twice. */
function sameCondition(
  rule: Rule,
  _course: Course,
  _coming: readonly Instant[],
  others: readonly Rule[],
): Advice | null {
  const twin = others.find((other) => isSameCondition(rule, other));
  if (!twin) return null;
  const message = `“${twin.name}” is on and looks for the same students. Change one of the two, or turn it off.`;
  return { code: 'sameCondition', about: 'condition', message };
}

/** Joined by “or”, a text about two things is true of some readers alone. */
function eitherWay(rule: Rule): Advice | null {
  if (!('any' in rule.when) || tellsOthersOnly(rule) || new Set(leavesOf(rule.when).map((l) => l.measure)).size < 2)
    return null;
  const name = / and /i.test(rule.name) ? ' The name still says “and”.' : '';
  const message = `With “or”, a student may fit one condition and not the others: check that the text is right for each of them.${name}`;
  return { code: 'eitherWay', about: 'condition', message };
}

/** Whether two rules look for the same students: one condition, one audience. */
export const isSameCondition = (a: Pick<Rule, 'when' | 'audience'>, b: Pick<Rule, 'when' | 'audience'>): boolean =>
  canonical(a.when) === canonical(b.when) && isSameAudience(a, b);

/** Who is left out by name plays no part. */
const isSameAudience = (a: Pick<Rule, 'audience'>, b: Pick<Rule, 'audience'>): boolean =>
  canonical({ ...a.audience, except: [] }) === canonical({ ...b.audience, except: [] });

const asksOneThing = (when: Condition): boolean => leavesOf(when).length === 1;

/** JSON with sorted keys, in which a group of one condition is that condition. */
function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'null';
  const entries = Object.entries(value).filter(([, v]) => v !== undefined);
  const [only] = entries;
  if (entries.length === 1 && (only![0] === 'all' || only![0] === 'any') && (only![1] as unknown[]).length === 1)
    return canonical((only![1] as unknown[])[0]);
  return `{${entries
    .sort(([x], [y]) => x.localeCompare(y))
    .map(([k, v]) => `${JSON.stringify(k)}:${canonical(v)}`)
    .join(',')}}`;
}

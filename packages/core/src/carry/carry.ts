/** What an instructor decided in one course, carried into another (engine K1 to K6). Never what happened there. */
import { makeCourse, type Course, type MessageBudget, type QuietHours } from '../course/course.ts';
import { freeId } from '../course/freeId.ts';
import type { Item } from '../course/item.ts';
import { namesOfRule } from '../rules/names.ts';
import type { Rule } from '../rules/rule.ts';
import { dateOf } from '../time/calendar.ts';
import type { Instant } from '../time/instant.ts';
import { matchItems, type ItemMatch, type ConfirmedMatches } from './match.ts';
import { carryRule, lacksNames, type CarriedRule } from './rules.ts';
import { shiftBetween, type Shift } from './shift.ts';

export interface CourseWithRules {
  readonly course: Course;
  readonly rules: readonly Rule[];
  /** Further ids that no rule may get: those of its archive. */
  readonly alsoTaken?: readonly string[] | undefined;
}

export interface CarryOptions {
  /** Items that somebody matched, by the source's id. */
  readonly told?: ConfirmedMatches | undefined;
  /** The source's items come along; only into a course that has none. */
  readonly withItems?: boolean | undefined;
  /** Rules that name what the target lacks are left out: a file cannot hold them. */
  readonly leaveOut?: boolean | undefined;
  /** The ids of the source's rules that come along; all where nothing is said. */
  readonly only?: ReadonlySet<string> | undefined;
  /** Whether a setting comes along, as `CarriedSetting.what` names it; where nothing is said, if the target has none. */
  readonly settings?: SettingChoices | undefined;
}

export type SettingChoices = Readonly<Record<string, boolean>>;

export interface CarriedItem extends ItemMatch {
  /** A date of it lies after the target's end. */
  readonly late?: true | undefined;
}

export interface CarriedSetting {
  /** `quietHours`, `budget`, `groupWeights`, `marks.mastery`. */
  readonly what: string;
  /** As the source has it; null where it has none. */
  readonly from: unknown;
  /** As the target has it afterwards. */
  readonly to: unknown;
  readonly kept: 'source' | 'target';
}

export interface CarriedContent {
  /** Whole weeks between the two courses, in days (engine K1). */
  readonly days: number;
  /** What a rule names, or all of the source's items where they come along; in their order. */
  readonly items: readonly CarriedItem[];
  /** The same for each of the source's items. */
  readonly matches: readonly ItemMatch[];
  /** In the source's order; `left` are those that a file cannot hold. */
  readonly rules: readonly (CarriedRule & { readonly left: boolean })[];
  readonly settings: readonly CarriedSetting[];
  /** The target with what came along, but for the rules. */
  readonly course: Course;
}

/** Throws a RangeError where items should come into a course that has some. */
export function carry(source: CourseWithRules, target: CourseWithRules, options: CarryOptions = {}): CarriedContent {
  const { told = {}, withItems = false, leaveOut = false, only } = options;
  if (withItems && target.course.items.length > 0) throw new RangeError('The course has items already');
  const shift = shiftBetween(source.course, target.course);
  const brought = withItems
    ? source.course.items.filter((i) => told[i.id] !== null).map((item) => moved(item, shift))
    : [];
  const { settings, marks, groupWeights, lines } = carrySettings(source.course, target.course, options.settings);
  const course = makeCourse({
    ...target.course,
    items: [...target.course.items, ...brought],
    marks,
    groupWeights,
    settings,
  });
  const matches = matchItems(source.course.items, course.items, told);
  const rules = source.rules.filter((r) => only?.has(r.id) ?? true);
  const named = new Set(rules.flatMap((r) => namesOfRule(r).flatMap((n) => (n.kind === 'item' ? [n.name] : []))));
  const items = new Map(matches.map((m) => [m.from, m.to]));
  const taken = new Set([...target.rules.map((r) => r.id), ...(target.alsoTaken ?? [])]);
  return {
    days: shift.days,
    matches,
    items: matches
      .filter((m) => withItems || named.has(m.from))
      .map((m) => (withItems && m.to !== null && isLate(course, m.to) ? { ...m, late: true } : m)),
    rules: rules.map((rule) => {
      const id = freeId(rule.id, (other) => taken.has(other));
      const carried = carryRule(rule, id, { shift, source: source.course, target: course, items });
      const left = leaveOut && lacksNames(carried);
      if (!left) taken.add(id);
      return { ...carried, left };
    }),
    settings: lines,
    course,
  };
}

/** An item on the other course's dates, without what belonged to its people; to the second. */
function moved(item: Item, shift: Shift): Item {
  const at = (t: Instant | null) => (t === null ? null : Math.floor(shift.instant(t) / 1000) * 1000);
  return { ...item, opensAt: at(item.opensAt), dueAt: at(item.dueAt), excused: [], extensions: [] };
}

function isLate(course: Course, id: string): boolean {
  const { opensAt, dueAt } = course.items[course.itemIndex.get(id)!]!;
  return [opensAt, dueAt].some((t) => t !== null && dateOf(course.calendar.dayNumber(t)) > course.end);
}

interface CarriedSettings {
  readonly settings: { readonly quietHours: QuietHours | null; readonly budget: MessageBudget | null };
  readonly marks: Readonly<Record<string, number>>;
  readonly groupWeights: Readonly<Record<string, number>> | null;
  readonly lines: readonly CarriedSetting[];
}

/** Each as a whole where the target has none; marks one by one. */
function carrySettings(source: Course, target: Course, choices: SettingChoices = {}): CarriedSettings {
  const lines: CarriedSetting[] = [];
  const either = <T>(what: string, from: T | null, own: T | null): T | null => {
    const isChosen = Object.hasOwn(choices, what) ? choices[what]! : own === null;
    const comes = from !== null && isChosen;
    const to = comes ? from : own;
    lines.push({ what, from, to, kept: comes ? 'source' : 'target' });
    return to;
  };
  const settings = {
    quietHours: either('quietHours', source.settings.quietHours, target.settings.quietHours),
    budget: either('budget', source.settings.budget, target.settings.budget),
  };
  const groupWeights = either('groupWeights', source.groupWeights, target.groupWeights);
  const marks = new Map(Object.entries(target.marks));
  for (const [name, value] of Object.entries(source.marks)) {
    const own = Object.hasOwn(target.marks, name) ? target.marks[name]! : null;
    const to = either(`marks.${name}`, value, own);
    if (to !== null) marks.set(name, to);
  }
  return { settings, marks: Object.fromEntries(marks), groupWeights, lines };
}

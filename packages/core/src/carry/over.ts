/** All that comes along from one course into another as an instructor chose it: what is shown first, and what is then done. */
import { makeCourse, type Course } from '../course/course.ts';
import type { LookoutView } from '../lookout/view.ts';
import { ruleSentence } from '../rules/sentence.ts';
import type { Rule } from '../rules/rule.ts';
import type { Wording } from '../wording/wording.ts';
import { carry, type CarriedContent, type CourseWithRules, type SettingChoices } from './carry.ts';
import { matchItems, soundTold, type ItemMatch, type ConfirmedMatches } from './match.ts';
import { nobodys, type CarriedRule, type RuleCarriage } from './rules.ts';
import { shiftBetween } from './shift.ts';
import { carryView, type CarriedView } from './views.ts';
import { carryWordings, withChips, type CarriedWording } from './wordings.ts';

export interface NamedView {
  readonly name: string;
  readonly view: LookoutView;
}

export interface CourseToCarry extends CourseWithRules {
  readonly wordings: readonly Wording[];
  readonly views: readonly NamedView[];
}

export interface CarryChoices {
  /** Items that somebody matched or said to have no match; what looks alike counts only once somebody said so. */
  readonly told: ConfirmedMatches;
  readonly withItems: boolean;
  /** Ids of the rules that come along; null for all. */
  readonly rules: readonly string[] | null;
  /** Names of the views that come along; null for all. */
  readonly views: readonly string[] | null;
  /** Limits and marks that come along or stay behind; where nothing is said, they come where the target has none. */
  readonly settings: SettingChoices;
  /** Texts that stay as they are, as `textKey` names them; in all others, finds become chips where one says them. */
  readonly asTheyAre: readonly string[];
}

/** One text of a wording, by the wording's id in the source. */
export const textKey = (wording: string, path: string): string => `${wording} ${path}`;

export interface CarryResult {
  readonly carried: CarriedContent;
  /** A line for each of the source's items; what is only alike is proposed, and not yet a match. */
  readonly items: readonly ItemMatch[];
  readonly rules: readonly (CarriedRule & { readonly sentence: string })[];
  /** Those that the rules use; `wording` as it comes along. */
  readonly wordings: readonly CarriedWording[];
  readonly views: readonly (CarriedView & { readonly name: string })[];
}

export function carryOver(source: CourseToCarry, target: CourseToCarry, choices: CarryChoices): CarryResult {
  const { withItems } = choices;
  const told = soundTold(source.course.items, withItems ? [] : target.course.items, choices.told);
  const proposed = matchItems(source.course.items, target.course.items, told);
  const unsaid = withItems ? [] : proposed.filter((m) => m.how === 'alike').map((m) => [m.from, null] as const);
  const carried = carry(source, target, {
    told: { ...told, ...Object.fromEntries(unsaid) },
    withItems,
    only: choices.rules === null ? undefined : new Set(choices.rules),
    settings: choices.settings,
  });
  const items = new Map(carried.matches.map((m) => [m.from, m.to]));
  const finding = { source: source.course, items };
  const used = new Set(carried.rules.flatMap(({ rule }) => rule.steps.map((s) => s.wording)));
  const wordings = carryWordings(
    source.wordings.filter((w) => used.has(w.id)),
    target.wordings,
    finding,
  ).map((w) => (w.isThere ? w : { ...w, wording: withChips(w.wording, w.found, kept(w, choices)) }));
  const ids = new Map(wordings.map((w) => [w.from, w.wording.id]));
  const rules = carried.rules.map((r) => ({ ...r, rule: inWordsThere(r.rule, ids) }));
  const carriage = {
    source: source.course,
    target: carried.course,
    items,
    shift: shiftBetween(source.course, target.course),
  };
  const named = withUnmatched(carriage);
  const byRule = new Map(rules.map((r) => [r.from, r.rule.id]));
  const names = new Map(source.rules.map((r) => [r.id, r.name]));
  return {
    carried,
    items: withItems ? carried.matches : proposed,
    rules: rules.map((r) => ({ ...r, sentence: ruleSentence(r.rule, named) })),
    wordings,
    views: source.views
      .filter((v) => choices.views?.includes(v.name) ?? true)
      .map(({ name, view }) => ({ name, ...carryView(view, carriage, byRule, names) })),
  };
}

const inWordsThere = (rule: Rule, ids: ReadonlyMap<string, string>): Rule => ({
  ...rule,
  steps: rule.steps.map((step) => ({ ...step, wording: ids.get(step.wording) ?? step.wording })),
});

const kept = ({ from, found }: CarriedWording, { asTheyAre }: CarryChoices): ReadonlySet<string> =>
  new Set(found.map((f) => f.path).filter((path) => asTheyAre.includes(textKey(from, path))));

/** The target with what has no match there, under the names of the source: only to say what a rule names. */
function withUnmatched({ source, target, items }: RuleCarriage): Course {
  const unmatched = source.items.filter((i) => (items.get(i.id) ?? null) === null);
  const named = unmatched.map((item) => ({ ...item, id: nobodys(item.id, { source, target }) }));
  return makeCourse({ ...target, items: [...target.items, ...named] });
}

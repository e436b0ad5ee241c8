/** Every number of a rule in one list, for a copy whose numbers are all changed at once. */
import type { Course } from '../course/course.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import type { Unit } from '../measures/values/measure.ts';
import { groupOf, isLeaf, makeGroup, type Condition, type Leaf } from '../conditions/condition.ts';
import { leafClause } from '../conditions/sentence.ts';
import type { Rule } from './rule.ts';

export interface RuleNumber {
  /** Where it stands: `when.all[0].value`. */
  readonly path: string;
  /** What it is part of: the condition's own words, "Step 2". */
  readonly of: string;
  readonly label: string;
  readonly value: number;
  readonly unit: Unit | 'times';
  readonly whole: boolean;
  readonly min: number | null;
  readonly max: number | null;
}

export function numbersOf(rule: Rule, course: Course): RuleNumber[] {
  const found: RuleNumber[] = [];
  changeNumbers(rule, course, (n) => {
    found.push(n);
    return n.value;
  });
  return found;
}

/** The rule with the given numbers in place of its own, by path. */
export const withNumbers = (rule: Rule, course: Course, numbers: ReadonlyMap<string, number>): Rule =>
  changeNumbers(rule, course, (n) => numbers.get(n.path) ?? n.value);

/** Walks every number in the sentence's order and puts in its place what `change` says. */
function changeNumbers(rule: Rule, course: Course, change: (n: RuleNumber) => number): Rule {
  const when = changeCondition(rule.when, 'when', course, change);
  const { repeat } = rule;
  const limit = (path: string, label: string, value: number, unit: RuleNumber['unit'], max: number) =>
    change({ path: `repeat.${path}`, of: 'How often', label, value, unit, whole: true, min: 1, max });
  return {
    ...rule,
    when,
    repeat: {
      perSpell: repeat.perSpell && limit('perSpell', 'per spell, at most', repeat.perSpell, 'times', 99),
      perTerm: repeat.perTerm && limit('perTerm', 'in the whole term, at most', repeat.perTerm, 'times', 99),
      gap: repeat.gap && {
        ...repeat.gap,
        days: limit('gap.days', 'wait between nudges, at least', repeat.gap.days, 'days', 120),
      },
    },
    steps: rule.steps.map((step, i) => {
      if (i === 0 && step.after.days === 0) return step;
      const number = { path: `steps[${i}].after.days`, of: `Step ${i + 1}`, label: 'after', value: step.after.days };
      const days = change({ ...number, unit: 'days', whole: true, min: 0, max: 120 });
      return { ...step, after: { ...step.after, days } };
    }),
  };
}

function changeCondition(c: Condition, path: string, course: Course, change: (n: RuleNumber) => number): Condition {
  if (isLeaf(c)) return changeLeaf(c, path, course, change);
  const { kind, children } = groupOf(c);
  return makeGroup(
    kind,
    children.map((child, i) => changeCondition(child, `${path}.${kind}[${i}]`, course, change)),
  );
}

function changeLeaf(leaf: Leaf, path: string, course: Course, change: (n: RuleNumber) => number): Leaf {
  const measure = CATALOGUE[leaf.measure];
  const { lead, marked } = leafClause(leaf, course);
  const clause = `${lead} ${marked}`;
  const next: { -readonly [K in keyof Leaf]: Leaf[K] } = { ...leaf };
  const whole = measure.unit === 'days' || measure.unit === 'count';
  const ask = (key: string, label: string, value: number, more: Partial<RuleNumber>) =>
    change({ path: `${path}.${key}`, of: clause, label, value, unit: 'days', whole: true, min: 1, max: 120, ...more });
  if (typeof leaf.value === 'number') {
    const min = measure.unit === 'hours' || measure.unit === 'points' || measure.classWide ? null : 0;
    const max = measure.unit === 'percent' ? 1000 : null;
    next.value = ask('value', 'compared with', leaf.value, { unit: measure.unit, whole, min, max });
  }
  if (typeof leaf.than === 'number') {
    next.than = ask('than', 'score', leaf.than, { unit: 'percent', whole: false, min: 0, max: 1000 });
  }
  if (leaf.hours !== undefined) next.hours = ask('hours', 'within', leaf.hours, { unit: 'hours', max: 2000 });
  if (leaf.days !== undefined) {
    const soon = leaf.measure === 'dueSoon';
    next.days = ask('days', soon ? 'within' : 'over', leaf.days, { min: soon ? 0 : 1 });
  }
  if (leaf.window && 'last' in leaf.window) {
    next.window = { last: { days: ask('window.last.days', 'in the last', leaf.window.last.days, {}) } };
  }
  return next;
}

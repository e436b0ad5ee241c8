/** Every number of a rule in one list, for a copy with all numbers changed at once. */
import type { Course } from '../course/course.ts';
import { numberFrom, type Range } from '../problem/range.ts';
import { DAYS_RANGE } from '../time/duration.ts';
import { LAST_DAYS_RANGE } from '../time/window.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import type { MeasureUnit } from '../measures/values/measure.ts';
import { rangeOf } from '../measures/values/range.ts';
import { groupOf, isLeaf, makeGroup, type Condition, type Leaf } from '../conditions/condition.ts';
import { leafClause } from '../conditions/sentence.ts';
import { TIMES_RANGE, type Rule } from './rule.ts';

export interface RuleNumber {
  /** Its place: `when.all[0].value`. */
  readonly path: string;
  /** What it is part of: the condition's own words, "Step 2". */
  readonly of: string;
  readonly label: string;
  readonly value: number;
  readonly unit: MeasureUnit | 'times';
  readonly range: Range;
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
  const limit = (path: string, label: string, value: number, unit: RuleNumber['unit'], range: Range) =>
    change({ path: `repeat.${path}`, of: 'How often', label, value, unit, range });
  return {
    ...rule,
    when,
    repeat: {
      perSpell: repeat.perSpell && limit('perSpell', 'each time, at most', repeat.perSpell, 'times', TIMES_RANGE),
      perTerm: repeat.perTerm && limit('perTerm', 'in the whole term, at most', repeat.perTerm, 'times', TIMES_RANGE),
      gap: repeat.gap && {
        ...repeat.gap,
        days: limit('gap.days', 'wait between nudges, at least', repeat.gap.days, 'days', DAYS_RANGE),
      },
    },
    steps: rule.steps.map((step, i) => {
      if (i === 0 && step.after.days === 0) return step;
      const number = { path: `steps[${i}].after.days`, of: `Step ${i + 1}`, label: 'after', value: step.after.days };
      const days = change({ ...number, unit: 'days', range: DAYS_RANGE });
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

const ANY = numberFrom(null, null);

function changeLeaf(leaf: Leaf, path: string, course: Course, change: (n: RuleNumber) => number): Leaf {
  const measure = CATALOGUE[leaf.measure];
  const { lead, marked } = leafClause(leaf, course);
  const clause = `${lead} ${marked}`;
  const next: { -readonly [K in keyof Leaf]: Leaf[K] } = { ...leaf };
  const ask = (key: string, label: string, value: number, unit: MeasureUnit, range: Range | null | undefined) =>
    change({ path: `${path}.${key}`, of: clause, label, value, unit, range: range ?? ANY });
  const { ranges } = measure;
  if (typeof leaf.value === 'number') {
    next.value = ask('value', 'compared with', leaf.value, measure.unit, rangeOf(measure));
  }
  if (typeof leaf.than === 'number') next.than = ask('than', 'score', leaf.than, 'percent', ranges?.than);
  if (leaf.hours !== undefined) next.hours = ask('hours', 'within', leaf.hours, 'hours', ranges?.hours);
  if (leaf.days !== undefined) {
    next.days = ask('days', leaf.measure === 'dueSoon' ? 'within' : 'over', leaf.days, 'days', ranges?.days);
  }
  if (leaf.window && 'last' in leaf.window) {
    next.window = {
      last: { days: ask('window.last.days', 'in the last', leaf.window.last.days, 'days', LAST_DAYS_RANGE) },
    };
  }
  return next;
}

/** A rule of one course as a rule of another (engine K2, K4, K5). */
import { groupOf, isLeaf, makeGroup, type Condition, type Leaf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import { freeId } from '../course/freeId.ts';
import type { MeasureCall } from '../measures/values/measure.ts';
import { joinPath } from '../problem/problem.ts';
import type { Rule, RuleStatus } from '../rules/rule.ts';
import { shiftRhythm, type Shift } from './shift.ts';

export interface DateChange {
  /** `rhythm.start`, `when.all[1].window.since`. */
  readonly what: string;
  readonly from: string;
  /** Null where it is left out. */
  readonly to: string | null;
}

/** `item` and `group` keep a rule from being turned on; the others are to be looked at. */
export type CarryCode = 'item' | 'group' | 'sections' | 'dates';

export interface CarryProblem {
  readonly code: CarryCode;
  readonly path: string;
  /** What it is about, as the source calls it. */
  readonly name: string;
}

export interface CarriedRule {
  /** The rule's id in the source. */
  readonly from: string;
  readonly rule: Rule;
  /** Only what changes. */
  readonly dates: readonly DateChange[];
  readonly problems: readonly CarryProblem[];
}

/** Whether a rule names something that the target lacks: nobody can turn it on before one is chosen. */
export const lacksNames = ({ problems }: Pick<CarriedRule, 'problems'>): boolean =>
  problems.some((p) => p.code === 'item' || p.code === 'group');

/** What a rule is carried by. */
export interface RuleCarriage {
  readonly shift: Shift;
  readonly source: Course;
  readonly target: Course;
  /** The target's item by the source's; null where it has no match. */
  readonly items: ReadonlyMap<string, string | null>;
}

/** The rule with the id `id` in the target. */
export function carryRule(rule: Rule, id: string, carriage: RuleCarriage): CarriedRule {
  const { shift, target } = carriage;
  const names = new Renaming(carriage);
  const when = names.condition(rule.when, 'when');
  const { rhythm, problems } = shiftRhythm(rule.rhythm, shift, target);
  const dates: DateChange[] = [];
  const changed = (what: string, from: string | null, to: string | null) => {
    if (from !== null && from !== to) dates.push({ what, from, to });
  };
  changed('rhythm.start', rule.rhythm.start, rhythm.start);
  changed('rhythm.until', rule.rhythm.until ?? null, rhythm.until ?? null);
  const sections = sectionsThere(rule.audience.sections, target);
  const isForAll = rule.audience.sections.length > 0 && sections.length === 0;
  return {
    from: rule.id,
    rule: {
      ...rule,
      id,
      status: statusOf(rule.status),
      audience: { ...rule.audience, sections, except: [] },
      when,
      rhythm,
      spellsFrom: null,
    },
    dates: [...dates, ...names.dates],
    problems: [
      ...names.problems,
      ...(isForAll
        ? [{ code: 'sections' as const, path: 'audience.sections', name: rule.audience.sections.join(', ') }]
        : []),
      ...problems.map((p) => ({ code: 'dates' as const, path: joinPath('rhythm', p.path), name: p.name })),
    ],
  };
}

/** Nothing that was carried rings before somebody has looked. */
const statusOf = (status: RuleStatus): RuleStatus => (status === 'draft' ? 'draft' : 'paused');

/** Where nobody is in the target yet, nobody knows which sections it will have. */
function sectionsThere(sections: readonly string[], target: Course): readonly string[] {
  const students = target.people.filter((p) => p.role === 'student');
  if (students.length === 0) return sections;
  const there = new Set(students.map((p) => p.section));
  return sections.filter((s) => there.has(s));
}

/** Conditions in the target’s names, and what of them is not there. */
export class Renaming {
  readonly problems: CarryProblem[] = [];
  readonly dates: DateChange[] = [];
  private readonly carriage: RuleCarriage;

  constructor(carriage: RuleCarriage) {
    this.carriage = carriage;
  }

  condition(condition: Condition, path: string): Condition {
    if (isLeaf(condition)) return this.leaf(condition, path);
    const { kind, children } = groupOf(condition);
    return makeGroup(
      kind,
      children.map((child, i) => this.condition(child, joinPath(path, kind, i))),
    );
  }

  private leaf(leaf: Leaf, path: string): Leaf {
    return { ...leaf, ...this.call(leaf, path) };
  }

  /** A measure with its parameters. */
  call(call: MeasureCall, path: string): MeasureCall {
    const { item, items, group, window } = call;
    if (group !== undefined && !this.carriage.target.items.some((i) => i.group === group)) {
      this.problems.push({ code: 'group', path: joinPath(path, 'group'), name: group });
    }
    return {
      ...call,
      ...(item === undefined ? {} : { item: this.item(item, joinPath(path, 'item')) }),
      ...(items === undefined ? {} : { items: items.map((id, i) => this.item(id, joinPath(path, 'items', i))) }),
      ...(window && 'since' in window
        ? { window: { since: this.since(window.since, joinPath(path, 'window', 'since')) } }
        : {}),
    };
  }

  private item(id: string, path: string): string {
    const match = this.carriage.items.get(id) ?? null;
    if (match !== null) return match;
    this.problems.push({ code: 'item', path, name: id });
    return nobodys(id, this.carriage);
  }

  private since(date: string, path: string): string {
    const { shift, target } = this.carriage;
    const moved = shift.first(date);
    if (moved !== date) this.dates.push({ what: path, from: date, to: moved });
    if (moved > target.end) this.problems.push({ code: 'dates', path, name: moved });
    return moved;
  }
}

/** An id for what has no match: the source's own, unless something else has it in the target. */
export function nobodys(id: string, { source, target }: Pick<RuleCarriage, 'source' | 'target'>): string {
  if (!target.itemIndex.has(id)) return id;
  return freeId(`${id} of ${source.code}`, (taken) => target.itemIndex.has(taken));
}

/** Translates a saved view from one course to another (engine K7), and leaves out what has no counterpart there. */
import { columnKey, columnTitle, ruleColumnOf, type LookoutColumn, type RuleNames } from '../lookout/columns.ts';
import type { LookoutView } from '../lookout/view.ts';
import { Renaming, type RuleCarriage } from './rules.ts';

export interface CarriedView {
  readonly view: LookoutView;
  /** Titles of what does not come along. */
  readonly without: readonly string[];
}

/** `rules`: the target's rule by the source's, of those that came along; `names`: what the source calls them. */
export function carryView(
  view: LookoutView,
  carriage: RuleCarriage,
  rules: ReadonlyMap<string, string>,
  names: RuleNames,
): CarriedView {
  const without: string[] = [];
  /** Keys of columns there by their keys here. */
  const keys = new Map<string, string>();
  const there = (column: LookoutColumn): LookoutColumn | null => {
    if (column.kind === 'log') return column;
    if (column.kind === 'rule') {
      const rule = rules.get(column.rule);
      return rule === undefined ? null : ruleColumnOf(rule);
    }
    const renaming = new Renaming(carriage);
    const call = renaming.call(column.call, '');
    return renaming.problems.some((p) => p.code !== 'dates') ? null : { ...column, call };
  };
  const columns = view.columns.flatMap((column) => {
    const moved = there(column);
    if (moved) keys.set(columnKey(column), columnKey(moved));
    else without.push(columnTitle(column, carriage.source, names));
    return moved ? [moved] : [];
  });
  const renaming = new Renaming(carriage);
  const when = view.when && renaming.condition(view.when, 'when');
  const isKept = !renaming.problems.some((p) => p.code !== 'dates');
  if (when && !isKept) without.push('its condition');
  return {
    view: {
      ...view,
      columns,
      when: isKept ? when : null,
      ruleBrushes: view.ruleBrushes.flatMap((b) => {
        const rule = rules.get(b.rule);
        return rule === undefined ? [] : [{ ...b, rule }];
      }),
      sort: view.sort.flatMap((s) => {
        const isColumn = view.columns.some((c) => columnKey(c) === s.by);
        if (!isColumn) return [s];
        const by = keys.get(s.by);
        return by === undefined ? [] : [{ ...s, by }];
      }),
    },
    without,
  };
}

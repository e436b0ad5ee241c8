/** The brush on a column, wherever a view keeps it: in its condition, on the log, or on a rule. */
import type { Marks } from '@zest-bell/core/conditions';
import { brushIn, withBrush, type Brush, type LookoutColumn, type LookoutView } from '@zest-bell/core/lookout';
import { ruleBrushOf } from './RuleHeader.tsx';

export function brushOn(view: LookoutView, column: LookoutColumn, marks: Marks): Brush | null {
  switch (column.kind) {
    case 'measure':
      return brushIn(view.when, column.call, marks);
    case 'log':
      return view.logBrushes.find((b) => b.log === column.log)?.brush ?? null;
    case 'rule':
      return view.ruleBrushes.find((b) => b.rule === column.rule)?.brush ?? null;
  }
}

/** What changes in a view by another brush on a column, or by none. */
export function withBrushOn(view: LookoutView, column: LookoutColumn, brush: Brush | null): Partial<LookoutView> {
  switch (column.kind) {
    case 'measure':
      return { when: withBrush(view.when, column.call, brush) };
    case 'log': {
      const others = view.logBrushes.filter((b) => b.log !== column.log);
      return { logBrushes: brush === null ? others : [...others, { log: column.log, brush }] };
    }
    case 'rule': {
      const next = ruleBrushOf(brush);
      const place = view.ruleBrushes.findIndex((b) => b.rule === column.rule);
      const others = view.ruleBrushes.filter((b) => b.rule !== column.rule);
      if (next === null) return { ruleBrushes: others };
      return {
        ruleBrushes: others.toSpliced(place < 0 ? others.length : place, 0, { rule: column.rule, brush: next }),
      };
    }
  }
}

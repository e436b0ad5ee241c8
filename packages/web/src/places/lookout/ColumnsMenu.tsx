/** Which columns the table has: a named set to begin with, any measure, and what the log knows. */
import { useState } from 'react';
import { Popover } from 'radix-ui';
import { Pop } from '../../ui/Pop.tsx';
import type { MeasureCall } from '@zest-bell/core/measures';
import {
  columnKey,
  LOG_COLUMNS,
  LOG_COLUMN_WORDS,
  logColumnOf,
  measureColumnOf,
  MOST_COLUMNS,
  NAMED_SETS,
  namedSet,
  rulesView,
  type LookoutColumn,
  type LookoutView,
} from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { useRules } from '../../lib/queries.ts';
import { defaultLeaf } from '../../lib/ruleDefaults.ts';
import { MeasurePicker } from '../../parts/conditions/MeasurePicker.tsx';
import { Button } from '../../ui/Button.tsx';
import { Check } from '../../ui/fields.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { withBrushOn } from './brushes.ts';
import { RuleColumns } from './RuleColumns.tsx';
import { callOfLeaf, ColumnDialog, hasFields } from './ColumnDialog.tsx';

export function ColumnsMenu(props: {
  readonly here: CourseHere;
  readonly view: LookoutView;
  readonly activity: boolean;
  /** The chart of activity, and the parts of the view that follow it. */
  readonly onActivity: (activity: boolean, part?: Partial<LookoutView>) => void;
  readonly onChange: (part: Partial<LookoutView>) => void;
}) {
  const { here, view, onChange } = props;
  const [open, setOpen] = useState(false);
  const [asking, setAsking] = useState<MeasureCall | null>(null);
  const keys = new Set(view.columns.map(columnKey));
  const full = view.columns.length >= MOST_COLUMNS;
  const add = (column: LookoutColumn) => {
    if (!keys.has(columnKey(column))) onChange({ columns: [...view.columns, column] });
  };
  const rules = (useRules(here.id).data ?? []).filter((c) => c.archivedAt === null).map((c) => c.rule);
  const on = rules.filter((r) => r.status === 'on').map((r) => r.id);
  // Ten rules fill the width by themselves: the chart of activity makes room for them.
  const toRules = (ids: readonly string[]) => {
    props.onActivity(false, rulesView(ids));
  };
  const toggle = (column: LookoutColumn, chosen: boolean) => {
    if (chosen) return add(column);
    onChange({
      columns: view.columns.filter((c) => columnKey(c) !== columnKey(column)),
      ...withBrushOn(view, column, null),
    });
  };
  const same = (columns: readonly LookoutColumn[]) =>
    columns.length === view.columns.length && columns.every((c, i) => columnKey(c) === columnKey(view.columns[i]!));
  return (
    <>
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger asChild>
          <Button>Columns</Button>
        </Popover.Trigger>
        <Pop label="Columns" align="end" high={620} className="grid w-[400px] gap-4 p-4">
          <section>
            <h3 className="mb-1.5 font-bold">Begin with</h3>
            <div className="flex flex-wrap gap-1.5">
              {NAMED_SETS.map((set) => {
                const columns = namedSet(set, here.course);
                return (
                  <Pill key={set} pressed={same(columns)} onClick={() => onChange({ columns, sort: [] })}>
                    {set}
                  </Pill>
                );
              })}
              {on.length > 0 && (
                <Pill pressed={same(rulesView(on).columns)} onClick={() => toRules(on)}>
                  Rules
                </Pill>
              )}
            </div>
          </section>
          <RuleColumns rules={rules} keys={keys} full={full} same={same} onAll={toRules} onToggle={toggle} />
          <section>
            <h3 className="mb-0.5 font-bold">Activity and the log</h3>
            <Check
              label="Daily activity, four weeks"
              checked={props.activity}
              onChange={(activity) => props.onActivity(activity)}
            />
            {LOG_COLUMNS.map((log) => {
              const column = logColumnOf(log);
              return (
                <Check
                  key={log}
                  label={LOG_COLUMN_WORDS[log].title}
                  checked={keys.has(columnKey(column))}
                  onChange={(chosen) => toggle(column, chosen)}
                />
              );
            })}
          </section>
          <section>
            <h3 className="mb-1.5 font-bold">Add a column</h3>
            {full ? (
              <p className="text-[14px] text-ink-2">A table has at most {MOST_COLUMNS} columns. Remove one first.</p>
            ) : (
              <MeasurePicker
                onChoose={(measure) => {
                  const call = callOfLeaf(defaultLeaf(measure, here.course, here.now));
                  if (!hasFields(call)) return add(measureColumnOf(call));
                  setOpen(false);
                  setAsking(call);
                }}
              />
            )}
          </section>
        </Pop>
      </Popover.Root>
      {asking && (
        <ColumnDialog
          here={here}
          call={asking}
          onClose={() => setAsking(null)}
          onSave={(call) => {
            setAsking(null);
            add(measureColumnOf(call));
          }}
        />
      )}
    </>
  );
}

/** The table itself: headers that stay, rows that are drawn as they come into view, one tab stop a control. */
import { useRef } from 'react';
import { Link } from 'react-router';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Bookmark, StickyNote } from 'lucide-react';
import { plural, type Instant } from '@zest-bell/core/time';
import { nameIn } from '@zest-bell/core/course';
import { columnKey, type LookoutColumn, type LookoutColumnData, type LookoutView } from '@zest-bell/core/lookout';
import { studentPath, type CourseHere } from '../../lib/here.ts';
import { CHOSEN_BAR } from './ChosenBar.tsx';
import { Cell, LastNudgeCell, Sparkline } from './Cells.tsx';
import { decimalsOf } from './decimals.ts';
import { HeaderCell } from './HeaderCell.tsx';
import { NoStudents } from './NoStudents.tsx';
import { RuleCell } from './RuleCell.tsx';
import { useRuleNames } from '../../parts/table/ruleNames.ts';
import type { Lookout } from '../../parts/table/useLookout.ts';

const ROW = 34;
const NAME = 208;
const ACTIVITY = 136;
const COLUMN = 126;
const RULE_COLUMN = 80;

/** What became of a nudge is said in words. */
const LAST_NUDGE = 206;

function widthOf(column: LookoutColumn): number {
  if (column.kind === 'rule') return RULE_COLUMN;
  return column.kind === 'log' && column.log === 'lastNudge' ? LAST_NUDGE : COLUMN;
}

export interface TableProps {
  readonly here: CourseHere;
  readonly view: LookoutView;
  readonly activity: boolean;
  readonly at: Instant;
  readonly lookout: Lookout;
  readonly ticked: ReadonlySet<string>;
  readonly onTicked: (ticked: ReadonlySet<string>) => void;
  readonly search: string;
  readonly onSearch: (search: string) => void;
  readonly onChange: (part: Partial<LookoutView>) => void;
}

export function LookoutTableView(props: TableProps) {
  const { here, view, activity, at, lookout, ticked, onTicked } = props;
  const table = lookout.table!;
  const rows = lookout.shown!.rows;
  const frame = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render alone
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 8,
  });
  const names = useRuleNames(here);
  const day = here.course.calendar.dayNumber(at);
  // What is drawn belongs to what was computed: a column that was just added comes with its values.
  const columns = view.columns.flatMap((column) => {
    const place = table.columns.findIndex((c) => c.key === columnKey(column));
    return place < 0 ? [] : [{ column, data: table.columns[place]!, place }];
  });
  const rulesShown = columns.filter(({ column }) => column.kind === 'rule').map(({ data }) => data);
  const width = NAME + (activity ? ACTIVITY : 0) + columns.reduce((sum, { column }) => sum + widthOf(column), 0);
  const grid = {
    gridTemplateColumns: `${NAME}px ${activity ? `${ACTIVITY}px ` : ''}${columns.map(({ column }) => `minmax(${widthOf(column)}px, 1fr)`).join(' ')}`,
  };
  const shownStudents = Array.from(rows, (row) => table.students[row]!);
  const all = shownStudents.length > 0 && shownStudents.every((s) => ticked.has(s));
  const toggle = (student: string) => {
    const next = new Set(ticked);
    if (!next.delete(student)) next.add(student);
    onTicked(next);
  };
  return (
    <div
      ref={frame}
      role="table"
      aria-label="Students"
      aria-rowcount={rows.length + 1}
      tabIndex={0}
      className="pane rounded-[16px] border border-line bg-sheet"
    >
      <div style={{ minWidth: width }}>
        <div
          role="row"
          aria-rowindex={1}
          className="sticky top-0 z-10 grid border-b border-line-strong bg-sheet"
          style={grid}
        >
          <div role="columnheader" className="sticky left-0 z-10 grid content-between gap-0.5 bg-sheet px-4 pt-1 pb-1">
            <span className="flex items-center gap-2.5 text-[13px] font-bold">
              <input
                type="checkbox"
                aria-label="Choose all students shown"
                className="size-4 accent-(--pine)"
                checked={all}
                onChange={() => onTicked(all ? new Set() : new Set(shownStudents))}
              />
              Student
            </span>
            <input
              type="search"
              aria-label="Search students"
              placeholder="name or email"
              value={props.search}
              onChange={(e) => props.onSearch(e.target.value)}
              className="field min-h-7.5 w-full py-0 text-[14px]"
            />
            <button
              type="button"
              className="absolute top-full left-2 mt-1 rounded-lg bg-zest px-3 py-1.5 text-[14px] font-bold text-[#14211d] not-focus:sr-only"
              onClick={() => document.getElementById(CHOSEN_BAR)?.focus()}
            >
              Skip to the actions
            </button>
          </div>
          {activity && (
            <div role="columnheader" className="px-3 pt-1 pb-0">
              <span className="block h-8 text-[13px] leading-4 font-bold">Activity, four weeks</span>
              <p className="text-[12px] leading-tight text-ink-3">
                <span aria-hidden className="mr-1 inline-block size-2 bg-[#7fae46]" />
                in the course
                <br />
                <span aria-hidden className="mr-1 inline-block size-2 bg-iris" />
                did some work
              </p>
            </div>
          )}
          {columns.map(({ column, data, place }, i) => (
            <HeaderCell
              key={data.key}
              {...props}
              column={column}
              index={i}
              distribution={data.distribution}
              within={lookout.shown!.within[place]}
              names={names}
            />
          ))}
        </div>
        <div role="rowgroup" style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            const student = table.students[row]!;
            const place = here.course.personIndex.get(student);
            const person = place === undefined ? undefined : here.course.people[place];
            if (!person) return null;
            const { remarks } = lookout;
            const asideUntil = remarks.aside[student];
            return (
              <div
                key={student}
                role="row"
                aria-rowindex={item.index + 2}
                aria-selected={ticked.has(student)}
                className="absolute inset-x-0 grid items-center border-b border-line text-[14.5px] hover:bg-fog aria-selected:bg-zest-area"
                style={{ ...grid, top: item.start, height: ROW }}
              >
                <span
                  role="rowheader"
                  className="sticky left-0 flex h-full min-w-0 items-center gap-2.5 bg-sheet px-4 [[aria-selected=true]>&]:bg-zest-area"
                >
                  <input
                    type="checkbox"
                    aria-label={`Choose ${nameIn(here.course, person.id)}`}
                    className="size-4 flex-none accent-(--pine)"
                    checked={ticked.has(student)}
                    onChange={() => toggle(student)}
                  />
                  <Link
                    to={studentPath(here, student)}
                    title={nameIn(here.course, person.id)}
                    className="min-w-0 truncate font-semibold underline-offset-4 hover:underline"
                  >
                    {nameIn(here.course, person.id)}
                  </Link>
                  {rulesShown.length > 0 && <RulesMatched of={rulesShown} row={row} />}
                  {remarks.pins.includes(student) && (
                    <Bookmark size={14} aria-label="pinned" className="flex-none fill-(--brass) text-brass" />
                  )}
                  {remarks.notes[student] !== undefined && (
                    <StickyNote size={14} aria-label="has a note" className="flex-none text-ink-3" />
                  )}
                  {asideUntil !== undefined && <span className="flex-none text-[12px] text-ink-3">set aside</span>}
                </span>
                {activity && (
                  <span role="cell" className="px-3">
                    {lookout.daily && <Sparkline daily={lookout.daily} person={place!} day={day} />}
                  </span>
                )}
                {columns.map(({ column, data }) => (
                  <span
                    key={data.key}
                    role="cell"
                    className="flex min-w-0 items-center px-3"
                    title={column.kind === 'rule' ? undefined : (data.facts?.[row] ?? undefined)}
                  >
                    {column.kind === 'log' && column.log === 'lastNudge' ? (
                      <LastNudgeCell here={here} at={at} log={lookout.log[student]} />
                    ) : column.kind === 'rule' ? (
                      <RuleCell value={data.values[row] ?? null} evidence={data.facts?.[row] ?? null} />
                    ) : (
                      <Cell
                        column={column}
                        value={data.values[row] ?? null}
                        distribution={data.distribution}
                        decimals={decimalsOf(data.values)}
                      />
                    )}
                  </span>
                ))}
              </div>
            );
          })}
        </div>
        {rows.length === 0 && <NoStudents {...props} />}
      </div>
    </div>
  );
}

/** How many of the rules in the table a student matches. */
function RulesMatched({ of, row }: { readonly of: readonly LookoutColumnData[]; readonly row: number }) {
  const n = of.filter(({ values }) => values[row] !== null).length;
  if (n === 0) return null;
  return (
    <span
      className="ml-auto flex-none rounded-full bg-fog px-1.5 font-num text-[12px] leading-5"
      title={`matches ${n} of ${plural(of.length, 'rule')}`}
    >
      {n}
    </span>
  );
}

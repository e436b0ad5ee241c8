/** This course’s view of Lookout, asked of all of one’s courses: each row with its course. What a course cannot answer is said. */
import { useDeferredValue, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { oneDecimal, plural } from '@zest-bell/core/time';
import { columnKey, columnTitle, unitOf, type LookoutColumn, type LookoutView } from '@zest-bell/core/lookout';
import type { EveryLookoutAnswer, EveryStudent } from '@zest-bell/core/exchange';
import { number, text, type ExportTable } from '@zest-bell/core/exports';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { deskOf, useDesks } from '../../parts/table/desk.ts';
import { FilterSentence } from '../../parts/table/FilterSentence.tsx';
import { useRuleNames } from '../../parts/table/ruleNames.ts';
import { ColumnsMenu } from './ColumnsMenu.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';

export function EverywherePage() {
  const here = useHere();
  const kept = useDesks((s) => s.desks[here.id]);
  const set = useDesks((s) => s.set);
  const desk = useMemo(() => deskOf(kept, here.course), [kept, here.course]);
  const { view } = desk;
  const names = useRuleNames(here);
  const [typed, setTyped] = useState('');
  const search = useDeferredValue(typed.trim());
  const change = (part: Partial<LookoutView>) => set(here.id, { ...desk, view: { ...view, ...part } });
  const answer = useQuery({
    queryKey: ['everyLookout', here.id, here.now, view, search],
    queryFn: () => ask(contract.desk.everyLookout, { course: here.id }, { body: { view, search } }),
    placeholderData: keepPreviousData,
  });
  const titles = view.columns.map((c) => columnTitle(c, here.course, names));
  return (
    <PlacePage
      place="students"
      part="all your courses"
      fills
      scope={<EverywhereSwitch here={here} place="students" />}
      lead={
        <span role="status" data-testid="count">
          {answer.data
            ? `${answer.data.shown} of ${plural(answer.data.students, 'student')} in ${plural(answer.data.courses.length, 'course')}`
            : '…'}
        </span>
      }
      actions={
        <>
          <ColumnsMenu
            here={here}
            view={view}
            activity={desk.activity}
            onActivity={(activity, part) => set(here.id, { ...desk, activity, view: { ...view, ...part } })}
            onChange={change}
          />
          {answer.data && (
            <ExportMenu
              what={plural(answer.data.rows.length, 'student')}
              table={() => exported(here, view.columns, titles, answer.data.rows)}
            />
          )}
        </>
      }
      filters={
        <>
          <input
            type="search"
            aria-label="Search students of all courses"
            placeholder="Search names and addresses"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            className="field w-60"
          />
          <div className="min-w-0 flex-1 basis-96">
            <FilterSentence here={here} view={view} onChange={change} />
          </div>
        </>
      }
    >
      {answer.isError ? (
        <Failed error={answer.error} retry={() => void answer.refetch()} />
      ) : !answer.data ? (
        <Loading what="the students of all your courses" />
      ) : (
        <>
          <Without answer={answer.data} />
          {answer.data.rows.length === 0 ? (
            <Empty title="No matches">No student in your courses matches these conditions.</Empty>
          ) : (
            <Table view={view} titles={titles} rows={answer.data.rows} onSort={change} />
          )}
        </>
      )}
    </PlacePage>
  );
}

/** Columns and conditions that some course cannot answer. */
function Without({ answer }: { readonly answer: EveryLookoutAnswer }) {
  const lacking = answer.courses.filter((c) => c.without.length > 0);
  if (lacking.length === 0) return null;
  return (
    <ul className="mt-2 text-[13.5px] text-ink-2">
      {lacking.map((c) => (
        <li key={c.course}>
          <strong>{c.code}</strong> cannot answer: {c.without.join('; ')}.
        </li>
      ))}
    </ul>
  );
}

const ROW = 34;

function Table(props: {
  readonly view: LookoutView;
  readonly titles: readonly string[];
  readonly rows: readonly EveryStudent[];
  readonly onSort: (part: Partial<LookoutView>) => void;
}) {
  const { view, titles, rows, onSort } = props;
  const frame = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render alone
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const [first] = view.sort;
  const sortBy = (column: LookoutColumn) => {
    const by = columnKey(column);
    onSort({ sort: [{ by, down: first?.by === by ? !first.down : true }] });
  };
  const columns = `90px minmax(180px,1.4fr) repeat(${titles.length}, minmax(110px,1fr))`;
  return (
    <div
      ref={frame}
      role="region"
      tabIndex={0}
      aria-label="Students of all courses"
      className="pane rounded-[16px] border border-line bg-sheet"
    >
      <div role="table" aria-rowcount={rows.length + 1} style={{ minWidth: 300 + 120 * titles.length }}>
        <div
          role="row"
          className="sticky top-0 z-10 grid gap-x-3 border-b border-line-strong bg-sheet px-4 py-2 text-[13px] text-ink-2"
          style={{ gridTemplateColumns: columns }}
        >
          <span role="columnheader" className="font-semibold">
            Course
          </span>
          <span role="columnheader" className="font-semibold">
            Student
          </span>
          {view.columns.map((column, i) => (
            <span
              key={columnKey(column)}
              role="columnheader"
              aria-sort={first?.by === columnKey(column) ? (first.down ? 'descending' : 'ascending') : 'none'}
            >
              <button
                type="button"
                className={`block w-full font-semibold first-letter:uppercase hover:underline ${isNumber(column) ? 'text-right' : 'text-left'}`}
                onClick={() => sortBy(column)}
              >
                {titles[i]}
                {unitOf(column) === 'percent' && <span className="font-normal text-ink-3">, %</span>}
                {first?.by === columnKey(column) && <span aria-hidden> {first.down ? '↓' : '↑'}</span>}
              </button>
            </span>
          ))}
        </div>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index]!;
            return (
              <div
                key={`${row.course} ${row.student}`}
                role="row"
                aria-rowindex={index + 2}
                className="absolute inset-x-0 grid items-center gap-x-3 border-b border-line px-4 text-[14.5px] hover:bg-fog"
                style={{ gridTemplateColumns: columns, height: ROW, top: 0, transform: `translateY(${start}px)` }}
              >
                <span role="cell" className="truncate font-semibold">
                  {row.code}
                </span>
                <span role="rowheader" className="truncate">
                  <Link
                    to={`/c/${row.course}/students/${encodeURIComponent(row.student)}`}
                    className="font-bold hover:underline"
                  >
                    {row.name}
                  </Link>
                </span>
                {row.values.map((value, i) => (
                  <span
                    key={columnKey(view.columns[i]!)}
                    role="cell"
                    className={`truncate tabular-nums ${isNumber(view.columns[i]!) ? 'text-right' : ''}`}
                  >
                    {valueWords(value, view.columns[i]!)}
                  </span>
                ))}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

function valueWords(value: EveryStudent['values'][number], column: LookoutColumn): string {
  if (value === null) return '–';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'string') return value;
  return unitOf(column) === 'percent' ? value.toFixed(1) : oneDecimal(value);
}

const isNumber = (column: LookoutColumn): boolean => !['text', 'yesNo'].includes(unitOf(column));

function exported(
  here: CourseHere,
  columns: readonly LookoutColumn[],
  titles: readonly string[],
  rows: readonly EveryStudent[],
): ExportTable {
  return {
    name: 'Students, all courses',
    zone: here.course.timeZone,
    columns: [
      ...[text('Course'), text('ID'), text('Student')],
      ...columns.map((c, i) => (!isNumber(c) ? text : number)(titles[i]!)),
    ],
    rows: rows.map((r) => [
      ...[r.code, r.student, r.name],
      ...r.values.map((v) => (typeof v === 'boolean' ? (v ? 'yes' : 'no') : v)),
    ]),
  };
}

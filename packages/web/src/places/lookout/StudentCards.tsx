/** The table of students on a phone: a card for each, with the first columns of the view. */
import { useRef } from 'react';
import { Link } from 'react-router';
import { useVirtualizer } from '@tanstack/react-virtual';
import { nameIn } from '@zest-bell/core/course';
import { columnKey, columnTitle } from '@zest-bell/core/lookout';
import { studentPath } from '../../lib/here.ts';
import { useRuleNames } from '../../parts/table/ruleNames.ts';
import { Cell } from './Cells.tsx';
import { decimalsOf } from './decimals.ts';
import { NoStudents } from './NoStudents.tsx';
import type { TableProps } from './LookoutTableView.tsx';

/** How many columns a card has room for. */
const COLUMNS = 3;
const CARD = 68;

export function StudentCards(props: TableProps) {
  const { here, view, lookout, ticked, onTicked } = props;
  const table = lookout.table!;
  const rows = lookout.shown!.rows;
  const names = useRuleNames(here);
  const frame = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render alone
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => CARD,
    overscan: 8,
  });
  const columns = view.columns.flatMap((column) => {
    // What became of the last nudge is a sentence, which the student's page shows.
    if (column.kind === 'log' && column.log === 'lastNudge') return [];
    const data = table.columns.find((c) => c.key === columnKey(column));
    return data ? [{ column, data, title: columnTitle(column, here.course, names) }] : [];
  });
  const toggle = (student: string) => {
    const next = new Set(ticked);
    if (!next.delete(student)) next.add(student);
    onTicked(next);
  };
  return (
    <>
      <input
        type="search"
        aria-label="Search students"
        placeholder="name or email"
        value={props.search}
        onChange={(e) => props.onSearch(e.target.value)}
        className="field mb-2 w-full"
      />
      <div
        ref={frame}
        tabIndex={0}
        role="region"
        aria-label="Students"
        className="pane rounded-[16px] border border-line bg-sheet"
      >
        {rows.length === 0 && <NoStudents {...props} />}
        <ul style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            const student = table.students[row]!;
            return (
              <li
                key={student}
                className="absolute inset-x-0 flex items-center gap-3 border-b border-line px-3"
                style={{ top: item.start, height: CARD }}
              >
                <input
                  type="checkbox"
                  aria-label={`Choose ${nameIn(here.course, student)}`}
                  className="flex-none accent-(--pine)"
                  checked={ticked.has(student)}
                  onChange={() => toggle(student)}
                />
                <div className="min-w-0 flex-1">
                  <Link to={studentPath(here, student)} className="block truncate font-semibold">
                    {nameIn(here.course, student)}
                  </Link>
                  <dl className="grid grid-cols-3 gap-x-3 text-[13px]">
                    {columns.slice(0, COLUMNS).map(({ column, data, title }) => (
                      <div key={data.key} className="min-w-0">
                        <dt className="truncate text-ink-3 first-letter:uppercase">{title}</dt>
                        <dd className="flex items-center *:ml-0 [&>[aria-hidden]]:hidden">
                          <Cell
                            column={column}
                            value={data.values[row] ?? null}
                            distribution={data.distribution}
                            decimals={decimalsOf(data.values)}
                          />
                        </dd>
                      </div>
                    ))}
                  </dl>
                </div>
              </li>
            );
          })}
        </ul>
      </div>
    </>
  );
}

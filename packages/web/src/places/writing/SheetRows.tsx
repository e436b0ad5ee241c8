/** The rows of a sheet: chosen by a condition on a column, or ticked. */
import { useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { plural } from '@zest-bell/core/time';
import type { SheetAnswer, SheetLine } from '@zest-bell/core/imports';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { StateChip } from '../../parts/messages/StateChip.tsx';
import { FILTER_OPERATORS, fitsFilter, type FilterOperator, type RowFilter } from './rowFilter.ts';

const OPERATOR_WORDS: Readonly<Record<FilterOperator, string>> = {
  filled: 'is filled',
  empty: 'is empty',
  equals: 'equals',
  contains: 'contains',
  over: 'is over',
  under: 'is under',
};
const ROW = 38;
const COLUMN = 150;

export function SheetRows(props: {
  readonly sheet: SheetAnswer;
  readonly chosen: ReadonlySet<number>;
  readonly onChosen: (rows: ReadonlySet<number>) => void;
}) {
  const { sheet, chosen } = props;
  const frame = useRef<HTMLDivElement>(null);
  const [filter, setFilter] = useState<RowFilter>({ column: 0, operator: 'filled', value: '' });
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render alone
  const list = useVirtualizer({
    count: sheet.lines.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 8,
  });
  const reachable = (line: SheetLine) => line.who !== 'nobody';
  const fitting = sheet.lines.flatMap((line, i) => (reachable(line) && fitsFilter(line.cells, filter) ? [i] : []));
  const all = sheet.lines.flatMap((line, i) => (reachable(line) ? [i] : []));
  const toggle = (row: number) => {
    const next = new Set(chosen);
    if (!next.delete(row)) next.add(row);
    props.onChosen(next);
  };
  const grid = {
    gridTemplateColumns: `40px 200px ${sheet.headers.map(() => `${COLUMN}px`).join(' ')} minmax(110px, 1fr)`,
  };
  const nobody = sheet.lines.length - all.length;
  return (
    <>
      <div className="mt-2 flex flex-wrap items-center gap-2 text-[14px]">
        <span>Choose rows where</span>
        <select
          aria-label="Column"
          className="field max-w-52"
          value={filter.column}
          onChange={(e) => setFilter({ ...filter, column: Number(e.target.value) })}
        >
          {sheet.headers.map((h, i) => (
            <option key={h} value={i}>
              {h}
            </option>
          ))}
        </select>
        <select
          aria-label="Comparison"
          className="field"
          value={filter.operator}
          onChange={(e) => setFilter({ ...filter, operator: e.target.value as FilterOperator })}
        >
          {FILTER_OPERATORS.map((o) => (
            <option key={o} value={o}>
              {OPERATOR_WORDS[o]}
            </option>
          ))}
        </select>
        {filter.operator !== 'filled' && filter.operator !== 'empty' && (
          <input
            aria-label="Value"
            className="field w-32"
            value={filter.value}
            onChange={(e) => setFilter({ ...filter, value: e.target.value })}
          />
        )}
        <Button onClick={() => props.onChosen(new Set(fitting))}>{`Choose these ${fitting.length}`}</Button>
        <Button look="quiet" onClick={() => props.onChosen(new Set(all))}>
          Choose all
        </Button>
        <Button look="quiet" onClick={() => props.onChosen(new Set())}>
          Choose none
        </Button>
      </div>
      <p role="status" className="mt-1 text-[14px] text-ink-2">
        {chosen.size} of {plural(sheet.lines.length, 'row')} chosen
        {nobody > 0 && `, ${plural(nobody, 'row')} ${nobody === 1 ? 'names' : 'name'} nobody`}
      </p>
      <div
        ref={frame}
        tabIndex={0}
        role="table"
        aria-label="Rows"
        className="mt-2 max-h-72 overflow-auto rounded-xl border border-line text-[13.5px]"
      >
        <div style={{ minWidth: 350 + sheet.headers.length * COLUMN }}>
          <div
            role="row"
            className="sticky top-0 z-10 grid border-b border-line-strong bg-sheet font-semibold text-ink-2"
            style={grid}
          >
            <span role="columnheader" className="sr-only">
              Chosen
            </span>
            <span />
            <span role="columnheader" className="px-2 py-2">
              Who it is
            </span>
            {sheet.headers.map((h) => (
              <span key={h} role="columnheader" className="truncate px-2 py-2" title={h}>
                {h}
              </span>
            ))}
            <span role="columnheader" className="px-2 py-2">
              Message
            </span>
          </div>
          <div role="rowgroup" style={{ height: list.getTotalSize(), position: 'relative' }}>
            {list.getVirtualItems().map((row) => {
              const line = sheet.lines[row.index]!;
              return (
                <div
                  key={row.index}
                  role="row"
                  className="absolute inset-x-0 grid items-center border-b border-line"
                  style={{ ...grid, top: row.start, height: ROW }}
                >
                  <span role="cell" className="px-3">
                    <input
                      type="checkbox"
                      aria-label={`Choose row ${row.index + 1}, ${line.name || 'nobody'}`}
                      className="size-4 accent-(--pine)"
                      disabled={!reachable(line)}
                      checked={chosen.has(row.index)}
                      onChange={() => toggle(row.index)}
                    />
                  </span>
                  <span role="cell" className="truncate px-2 font-semibold" title={line.why ?? line.address ?? ''}>
                    {line.who === 'nobody' ? <Chip tone="tangerine">nobody</Chip> : line.name || line.address}{' '}
                    {line.who === 'guest' && <span className="font-normal text-ink-3">not in the course</span>}
                  </span>
                  {line.cells.map((cell, i) => (
                    <span key={i} role="cell" className="truncate px-2" title={cell}>
                      {cell}
                    </span>
                  ))}
                  <span role="cell" className="px-2">
                    {line.written && <StateChip state={line.written.state} />}
                  </span>
                </div>
              );
            })}
          </div>
        </div>
      </div>
    </>
  );
}

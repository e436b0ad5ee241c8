/**
 * Items across, students down; the names and the headers stay. Only what is in view is drawn. One stop of the Tab key: arrows
 * move within, Enter opens what the marked cell is about.
 */
import { memo, useRef, useState, type CSSProperties, type KeyboardEvent } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { dayWords, percentWords } from '@zest-bell/core/time';
import { type Item, nameIn } from '@zest-bell/core/course';
import type { Gradebook } from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { useMedia } from '../../ui/useMedia.ts';
import { cellText, cellWords, GradeCell } from '../../parts/editing/GradeCell.tsx';

const ROW = 36;
const HEAD = 84;
const COLUMN = 98;
/** Widths of what stays at the left: the names, and the course grades. */
const WIDE = { name: 204, grade: 76 };
const NARROW = { name: 122, grade: 66 };
type FixedWidths = typeof WIDE;

export interface GridProps {
  readonly here: CourseHere;
  readonly book: Gradebook;
  /** Columns of the book that are shown, in order. */
  readonly columns: readonly number[];
  /** Rows of the book, in order. */
  readonly rows: readonly number[];
  /** The group that shows its grades beside the names, by its place in the book; null for the course grade. */
  readonly group: number | null;
  readonly sortedBy: GradebookSort;
  readonly onSort: (by: GradebookSort['by']) => void;
  readonly onItem: (item: Item) => void;
  readonly onStudent: (student: string) => void;
  /** A cell of work, by its row and column in the gradebook. */
  readonly onCell: (row: number, column: number) => void;
}

/** A student's grade in a group, or in the course. */
export const gradeIn = (book: Gradebook, row: number, group: number | null): number | null =>
  group === null ? book.courseGrade(row) : book.groupGrade(row, group);

export interface GradebookSort {
  readonly by: 'name' | 'grade';
  readonly down: boolean;
}

/** Row −1 is the headers; column −2 the names, −1 the course grades. */
interface GridPlace {
  readonly row: number;
  readonly column: number;
}

const idOf = ({ row, column }: GridPlace) => `gb-${row}-${column}`;

export function GradebookGrid(props: GridProps) {
  const { here, book, columns, rows } = props;
  const frame = useRef<HTMLDivElement>(null);
  const fixed = useMedia('(max-width: 759px)') ? NARROW : WIDE;
  const left = fixed.name + fixed.grade;
  const [active, setActive] = useState<GridPlace>({ row: -1, column: -2 });
  const [inside, setInside] = useState(false);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render alone
  const down = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 4,
    scrollPaddingStart: HEAD,
  });
  const across = useVirtualizer({
    count: columns.length,
    horizontal: true,
    getScrollElement: () => frame.current,
    estimateSize: () => COLUMN,
    overscan: 1,
    scrollPaddingStart: left,
  });
  const inView = across.getVirtualItems();
  const first = inView[0]?.index ?? 0;
  const last = inView.at(-1)?.index ?? -1;
  const width = left + across.getTotalSize();
  const move = (to: GridPlace) => {
    const next = {
      row: Math.max(-1, Math.min(rows.length - 1, to.row)),
      column: Math.max(-2, Math.min(columns.length - 1, to.column)),
    };
    setActive(next);
    if (next.row >= 0) down.scrollToIndex(next.row);
    if (next.column >= 0) across.scrollToIndex(next.column);
  };
  const open = ({ row, column }: GridPlace) => {
    if (row >= 0 && column >= 0) return props.onCell(rows[row]!, columns[column]!);
    if (row >= 0) return props.onStudent(book.about.students[rows[row]!]!);
    if (column === -2) return props.onSort('name');
    if (column === -1) return props.onSort('grade');
    props.onItem(itemAt(column));
  };
  const itemAt = (column: number): Item =>
    here.course.items[here.course.itemIndex.get(book.about.items[columns[column]!]!)!]!;
  const onKeyDown = (e: KeyboardEvent) => {
    const page = Math.max(1, Math.floor(((frame.current?.clientHeight ?? 400) - HEAD) / ROW) - 1);
    const { row, column } = active;
    const to: GridPlace | undefined = {
      ArrowDown: { row: row + 1, column },
      ArrowUp: { row: row - 1, column },
      ArrowRight: { row, column: column + 1 },
      ArrowLeft: { row, column: column - 1 },
      PageDown: { row: row + page, column },
      PageUp: { row: Math.max(0, row - page), column },
      Home: { row: e.ctrlKey ? -1 : row, column: -2 },
      End: { row: e.ctrlKey ? rows.length - 1 : row, column: columns.length - 1 },
    }[e.key];
    if (e.key === 'Enter' || e.key === ' ') open(active);
    else if (to) move(to);
    else return;
    e.preventDefault();
  };
  const marked = (place: GridPlace) => inside && active.row === place.row && active.column === place.column;
  const headProps = (place: GridPlace) => ({
    id: idOf(place),
    role: 'columnheader' as const,
    'aria-colindex': place.column + 3,
    'data-marked': marked(place) || undefined,
    onClick: () => {
      setActive(place);
      open(place);
    },
  });
  return (
    <div
      ref={frame}
      role="grid"
      aria-label="Gradebook"
      aria-rowcount={rows.length + 1}
      aria-colcount={columns.length + 2}
      aria-activedescendant={inside ? idOf(active) : undefined}
      tabIndex={0}
      onKeyDown={onKeyDown}
      onFocus={() => setInside(true)}
      onBlur={() => setInside(false)}
      className="pane rounded-[16px] border border-line bg-sheet"
    >
      <div style={{ width, minWidth: '100%', position: 'relative', height: HEAD + down.getTotalSize() }}>
        <div
          role="row"
          aria-rowindex={1}
          className="sticky top-0 z-20 border-b border-line-strong bg-sheet"
          style={{ height: HEAD, width }}
        >
          <div className="sticky left-0 z-10 flex h-full bg-sheet" style={{ width: left }}>
            <div
              {...headProps({ row: -1, column: -2 })}
              aria-sort={sortOf(props.sortedBy, 'name')}
              className="gb-head flex cursor-pointer items-end px-4 pb-2 text-[13.5px] font-bold"
              style={{ width: fixed.name }}
            >
              Student <Arrow sort={props.sortedBy} by="name" />
            </div>
            <div
              {...headProps({ row: -1, column: -1 })}
              aria-sort={sortOf(props.sortedBy, 'grade')}
              className="gb-head flex cursor-pointer flex-col justify-end border-r border-line-strong px-2 pb-2 text-[13.5px] leading-tight font-bold"
              style={{ width: fixed.grade }}
            >
              <span>
                {props.group === null ? 'Course grade' : 'Group grade'} <Arrow sort={props.sortedBy} by="grade" />
              </span>
              <Mean value={props.group === null ? book.meanCourseGrade() : book.meanGroupGrade(props.group)} />
            </div>
          </div>
          {inView.map((v) => {
            const item = itemAt(v.index);
            return (
              <div
                key={v.key}
                {...headProps({ row: -1, column: v.index })}
                title={item.title}
                className="gb-head absolute top-0 flex h-full cursor-pointer flex-col justify-end border-r border-line px-2 pb-2 hover:bg-fog"
                style={{ left: left + v.start, width: COLUMN }}
              >
                <span className="line-clamp-2 text-[13px] leading-[16px] font-bold underline-offset-2 hover:underline">
                  {item.title}
                </span>
                <span className="truncate text-[12px] text-ink-3">
                  {item.dueAt === null
                    ? 'no due date'
                    : `due ${dayWords(item.dueAt, here.course.timeZone).replace(/^\w+ /, '')}`}
                </span>
                <Mean value={book.summary(columns[v.index]!).mean} />
              </div>
            );
          })}
        </div>
        {down.getVirtualItems().map((v) => (
          <Row
            key={rows[v.index]}
            {...{ here, book, columns, first, last, width, fixed }}
            grade={gradeIn(book, rows[v.index]!, props.group)}
            row={rows[v.index]!}
            index={v.index}
            top={HEAD + v.start}
            marked={inside && active.row === v.index ? active.column : null}
            onOpen={props.onStudent}
            onCell={props.onCell}
          />
        ))}
      </div>
    </div>
  );
}

const sortOf = (sort: GradebookSort, by: GradebookSort['by']) =>
  sort.by !== by ? 'none' : sort.down ? 'descending' : 'ascending';

const Arrow = ({ sort, by }: { readonly sort: GradebookSort; readonly by: GradebookSort['by'] }) =>
  sort.by === by ? <span aria-hidden>{sort.down ? ' ↓' : ' ↑'}</span> : null;

function Mean({ value }: { readonly value: number | null }) {
  return (
    <span className="text-[12px] font-normal text-ink-2">
      {value === null ? (
        'no grades yet'
      ) : (
        <>
          mean <span className="font-num text-brass-text">{percentWords(value)}</span>
        </>
      )}
    </span>
  );
}

interface RowProps {
  readonly here: CourseHere;
  readonly book: Gradebook;
  readonly columns: readonly number[];
  readonly first: number;
  readonly last: number;
  readonly width: number;
  readonly fixed: FixedWidths;
  readonly row: number;
  /** Percent; null without one. */
  readonly grade: number | null;
  readonly index: number;
  readonly top: number;
  /** The column of the marked cell, if it is in this row. */
  readonly marked: number | null;
  readonly onOpen: (student: string) => void;
  readonly onCell: (row: number, column: number) => void;
}

/** Drawn anew only when its own cells change: scrolling draws the rows and columns that come in. */
const Row = memo(function Row(props: RowProps) {
  const { here, book, columns, first, last, row, index, marked, fixed, grade } = props;
  const left = fixed.name + fixed.grade;
  const student = book.about.students[row]!;
  const style: CSSProperties = { position: 'absolute', top: props.top, height: ROW, width: props.width };
  const cells = [];
  for (let c = first; c <= last; c++) {
    const column = columns[c]!;
    cells.push(
      <GridCell
        key={column}
        {...{ here, book, row, column }}
        id={idOf({ row: index, column: c })}
        index={c}
        left={left + c * COLUMN}
        marked={marked === c}
        onCell={props.onCell}
      />,
    );
  }
  return (
    <div role="row" aria-rowindex={index + 2} className="border-b border-line" style={style}>
      <div className="sticky left-0 z-10 flex h-full bg-sheet" style={{ width: left }}>
        <div
          id={idOf({ row: index, column: -2 })}
          role="rowheader"
          aria-colindex={1}
          data-marked={marked === -2 || undefined}
          className="gb-cell flex cursor-pointer items-center px-4 text-[14.5px] font-semibold"
          style={{ width: fixed.name }}
          onClick={() => props.onOpen(student)}
        >
          <span className="truncate underline-offset-4 hover:underline">{nameIn(here.course, student)}</span>
        </div>
        <div
          id={idOf({ row: index, column: -1 })}
          role="gridcell"
          aria-colindex={2}
          data-marked={marked === -1 || undefined}
          className="gb-cell flex items-center justify-end border-r border-line-strong px-3 text-[13.5px] tabular-nums"
          style={{ width: fixed.grade }}
        >
          {grade === null ? <span className="text-ink-3">–</span> : grade.toFixed(1)}
        </div>
      </div>
      {cells}
    </div>
  );
});

/** Drawn once: scrolling across draws the columns that come in, and no others. */
const GridCell = memo(function GridCell(props: {
  readonly here: CourseHere;
  readonly book: Gradebook;
  readonly row: number;
  readonly column: number;
  readonly id: string;
  readonly index: number;
  readonly left: number;
  readonly marked: boolean;
  readonly onCell: (row: number, column: number) => void;
}) {
  const { here, book, row, column } = props;
  const { course } = here;
  const cell = book.cell(row, column);
  const item = course.items[course.itemIndex.get(book.about.items[column]!) ?? -1];
  const words = cellWords(cell, item?.points ?? null, course.timeZone);
  return (
    <div
      id={props.id}
      role="gridcell"
      aria-colindex={props.index + 3}
      aria-label={`${cellText(cell)}: ${words}`}
      title={words}
      data-marked={props.marked || undefined}
      className={`gb-cell absolute top-0 flex h-full items-center border-r border-line px-2 text-[13.5px] ${cell.state === 'excused' ? 'hatched' : ''}`}
      style={{ left: props.left, width: COLUMN }}
      onClick={() => props.onCell(row, column)}
    >
      <GradeCell cell={cell} />
    </div>
  );
});

/** The gradebook: what came of every item for every student; each item leads to those who need a message. */
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { percentWords, plural } from '@zest-bell/core/time';
import { fullName, type Item } from '@zest-bell/core/course';
import { gradebookTable } from '@zest-bell/core/exports';
import type { Gradebook } from '@zest-bell/core/lookout';
import { studentPath, useHere, type CourseHere } from '../../lib/here.ts';
import { useAsOf } from '../../lib/termMoment.ts';
import { Pill } from '../../ui/Pill.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { AsOfNote } from './AsOfNote.tsx';
import { Legend } from '../../parts/editing/GradeCell.tsx';
import { GradeDialog } from '../../parts/editing/GradeDialog.tsx';
import { GradebookGrid, gradeIn, type GradebookSort } from './GradebookGrid.tsx';
import { ItemDialog } from './ItemDialog.tsx';
import { StudentsPage } from './StudentsPage.tsx';
import { useGradebook } from './useGradebook.ts';

/** Which items are across: all of them, what is worth points, or one group. */
type Shown = { readonly kind: 'points' | 'all' } | { readonly kind: 'group'; readonly group: string };

export function GradebookPage() {
  const here = useHere();
  const navigate = useNavigate();
  const at = useAsOf(here);
  const answer = useGradebook(here, at);
  const book = answer.data;
  const [chosen, setChosen] = useState<Shown | null>(null);
  const [sort, setSort] = useState<GradebookSort>({ by: 'name', down: false });
  const [item, setItem] = useState<Item | null>(null);
  const [cell, setCell] = useState<{ readonly row: number; readonly column: number } | null>(null);
  const worthPoints = here.course.items.some((i) => i.points !== null);
  const shown = useMemo((): Shown => chosen ?? { kind: worthPoints ? 'points' : 'all' }, [chosen, worthPoints]);
  const columns = useMemo(() => (book ? columnsOf(book, here, shown) : []), [book, here, shown]);
  const group = book && shown.kind === 'group' ? book.about.groups.indexOf(shown.group) : null;
  const rows = useMemo(() => (book ? rowsOf(book, here, sort, group ?? null) : []), [book, here, sort, group]);
  if (answer.error)
    return (
      <StudentsPage here={here} tab="/gradebook">
        <Failed error={answer.error} retry={() => void answer.refetch()} />
      </StudentsPage>
    );
  const { groupWeights } = here.course;
  return (
    <StudentsPage
      here={here}
      tab="/gradebook"
      fills
      lead={
        <span role="status" data-testid="count">
          {book &&
            `${plural(rows.length, 'student')} · ${columns.length} of ${plural(book.about.items.length, 'item')}`}
        </span>
      }
      actions={
        book && (
          <ExportMenu
            what={`${plural(rows.length, 'student')}, ${plural(columns.length, 'item')}`}
            table={() => gradebookTable(here.course, book, rows, columns)}
          />
        )
      }
      filters={
        book &&
        book.about.items.length > 0 && (
          <>
            <div role="group" aria-label="Show items" className="flex flex-wrap gap-1.5">
              {worthPoints && (
                <Pill pressed={shown.kind === 'points'} onClick={() => setChosen({ kind: 'points' })}>
                  Worth points
                </Pill>
              )}
              <Pill pressed={shown.kind === 'all'} onClick={() => setChosen({ kind: 'all' })}>
                All
              </Pill>
              {book.about.groups.map((group) => (
                <Pill
                  key={group}
                  pressed={shown.kind === 'group' && shown.group === group}
                  onClick={() => setChosen({ kind: 'group', group })}
                >
                  {group}
                  {groupWeights?.[group] !== undefined && (
                    <span className="font-num text-[12.5px] font-normal"> {percentWords(groupWeights[group])}</span>
                  )}
                </Pill>
              ))}
            </div>
            <Legend />
          </>
        )
      }
    >
      <AsOfNote here={here} />
      {!book ? (
        <Loading what="the gradebook" />
      ) : rows.length === 0 || book.about.items.length === 0 ? (
        <Empty title={rows.length === 0 ? 'No students yet' : 'No work yet'}>
          Items that are worth points or have a due date appear here, with every student below them. Add both in Course.
        </Empty>
      ) : (
        <GradebookGrid
          {...{ here, book, columns, rows }}
          group={group ?? null}
          sortedBy={sort}
          onSort={(by) => setSort((was) => ({ by, down: was.by === by ? !was.down : by === 'grade' }))}
          onItem={setItem}
          onCell={(row, column) => setCell({ row, column })}
          onStudent={(student) => void navigate(studentPath(here, student))}
        />
      )}
      {cell && book && (
        <GradeDialog
          here={here}
          student={book.about.students[cell.row]!}
          item={here.course.items[here.course.itemIndex.get(book.about.items[cell.column]!)!]!}
          cell={book.cell(cell.row, cell.column)}
          toStudent
          onClose={() => setCell(null)}
        />
      )}
      {item && book && <ItemDialog {...{ here, book, item, at }} onClose={() => setItem(null)} />}
    </StudentsPage>
  );
}

function columnsOf(book: Gradebook, here: CourseHere, shown: Shown): number[] {
  return book.about.items.flatMap((id, column) => {
    const item = here.course.items[here.course.itemIndex.get(id) ?? -1];
    if (!item) return [];
    if (shown.kind === 'points' && item.points === null) return [];
    return shown.kind === 'group' && item.group !== shown.group ? [] : [column];
  });
}

function rowsOf(book: Gradebook, here: CourseHere, { by, down }: GradebookSort, group: number | null): number[] {
  const { people, personIndex } = here.course;
  const rows = book.about.students.flatMap((student, row) => {
    const person = people[personIndex.get(student) ?? -1];
    return person ? [{ row, name: `${person.lastName} ${fullName(person)}`, grade: gradeIn(book, row, group) }] : [];
  });
  const turn = down ? -1 : 1;
  rows.sort((a, b) => {
    if (by === 'name') return turn * a.name.localeCompare(b.name);
    // Students without a grade come last in either order.
    if (a.grade === null || b.grade === null) return Number(a.grade === null) - Number(b.grade === null);
    return turn * (a.grade - b.grade) || a.name.localeCompare(b.name);
  });
  return rows.map((r) => r.row);
}

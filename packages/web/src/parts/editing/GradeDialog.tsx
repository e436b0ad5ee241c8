/** One result of one student: what came of it, and other points in its place. */
import { rangeIn } from '@zest-bell/core/problem';
import { useState, type FormEvent } from 'react';
import { useNavigate } from 'react-router';
import { numberWords, plural } from '@zest-bell/core/time';
import { nameIn, type Item } from '@zest-bell/core/course';
import type { GradebookCell } from '@zest-bell/core/lookout';
import { contract, gradePoints } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { studentPath, type CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { sayChanged } from './useEdit.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { NumberField } from '../../ui/fields.tsx';
import { cellWords } from './GradeCell.tsx';

export function GradeDialog(props: {
  readonly here: CourseHere;
  readonly student: string;
  readonly item: Item;
  readonly cell: GradebookCell;
  /** Whether a way to the student’s page is offered. */
  readonly toStudent?: boolean;
  readonly onClose: () => void;
}) {
  const { here, student, item, cell } = props;
  const navigate = useNavigate();
  const [points, setPoints] = useState(cell.points);
  const [busy, setBusy] = useState(false);
  const name = nameIn(here.course, student);
  const over = points !== null && item.points !== null && points > item.points;
  const save = async (e: FormEvent) => {
    e.preventDefault();
    if (points === null || points === cell.points) return;
    setBusy(true);
    const done = await attempt(() =>
      ask(contract.intake.grade, { course: here.id, student, item: item.id }, { body: { points } }),
    );
    setBusy(false);
    if (!done) return;
    await refreshAll();
    sayChanged(here, done);
    props.onClose();
  };
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={`${name}, ${item.title}`}
      note={cellWords(cell, item.points, here.course.timeZone)}
      foot={
        props.toStudent && (
          <Button onClick={() => navigate(studentPath(here, student))}>{`Open the page of ${name}`}</Button>
        )
      }
    >
      <form className="grid gap-3 px-6 py-5" onSubmit={(e) => void save(e)}>
        {item.points === null ? (
          <p className="text-ink-2">This item has no points, so there is no score to correct.</p>
        ) : (
          <>
            <NumberField
              label="Points"
              unit={`of ${numberWords(item.points)}`}
              {...rangeIn(gradePoints)}
              empty="not graded"
              value={points}
              onChange={setPoints}
            />
            {over && (
              <p role="status" className="text-[14px] text-brass-text">
                More than the {plural(item.points, 'point')} possible. It is saved as extra credit.
              </p>
            )}
            <p className="text-[14px] text-ink-2">It counts from now on. Earlier decisions stay as they were.</p>
            <div>
              <Button
                needs="data.write"
                look="main"
                type="submit"
                busy={busy}
                disabled={points === null || points === cell.points}
              >
                Save score
              </Button>
            </div>
          </>
        )}
      </form>
    </Dialog>
  );
}

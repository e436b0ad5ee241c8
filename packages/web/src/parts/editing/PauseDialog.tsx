/** No nudges for some students: until a day, the end of the term, or somebody resumes them. */
import { useState, type FormEvent } from 'react';
import { dateOf, dateWords, plural } from '@zest-bell/core/time';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Choice, DateField } from '../../ui/fields.tsx';
import { useEdit } from './useEdit.ts';

type PauseEnd = 'date' | 'term' | 'resumed';

export function PauseDialog(props: {
  readonly here: CourseHere;
  readonly students: readonly string[];
  readonly onPaused?: () => void;
  readonly onClose: () => void;
}) {
  const { here, students } = props;
  const today = here.course.calendar.dayNumber(here.now);
  const [until, setUntil] = useState<PauseEnd>('date');
  const [date, setDate] = useState(dateOf(today + 7));
  const edit = useEdit(here);
  const [only] = students;
  const who =
    students.length === 1 && only !== undefined ? nameOf(here, only) : plural(students.length, 'person', 'people');
  const save = async (e: FormEvent) => {
    e.preventDefault();
    const pausedUntil = until === 'resumed' ? undefined : until === 'term' ? ('term' as const) : date;
    if (!(await edit.save({ people: students.map((id) => ({ id, set: { paused: true } })), pausedUntil }))) return;
    props.onPaused?.();
    props.onClose();
  };
  const choice = (value: PauseEnd, words: string) => (
    <Choice name="until" label={words} checked={until === value} onChoose={() => setUntil(value)} />
  );
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={`Pause nudges for ${who}`}
      note="Only rules that are essential still write to them. You can write by hand once you resume nudges."
    >
      <form onSubmit={(e) => void save(e)} className="grid gap-4 px-6 py-5">
        <fieldset className="grid gap-2">
          <legend className="mb-1 text-[13px] font-semibold text-ink-2">Until when?</legend>
          {choice('date', 'Until a day')}
          {until === 'date' && (
            <DateField
              label="First day with nudges again"
              value={date}
              min={dateOf(today + 1)}
              problem={edit.problemOf('pausedUntil')}
              onChange={setDate}
            />
          )}
          {choice('term', `Until the term ends on ${dateWords(here.course.end)}`)}
          {choice('resumed', 'Until I resume them')}
        </fieldset>
        <div>
          <Button look="main" type="submit" busy={edit.busy}>
            Pause nudges
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

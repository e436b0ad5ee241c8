import { longest } from '@zest-bell/core/problem';
import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { dateOf, plural, weekdayDateWords } from '@zest-bell/core/time';
import { asideNote, contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { DateField, Labelled } from '../../ui/fields.tsx';
import { useKept } from '../../lib/useKept.ts';

/** Takes students off the list of Today until a day, with a note on why. Rules go on as before. */
export function AsideDialog(props: {
  readonly here: CourseHere;
  readonly students: readonly string[];
  readonly onClose: () => void;
}) {
  const { here, students } = props;
  const today = here.course.calendar.dayNumber(here.now);
  const [until, setUntil] = useState(dateOf(today + 7));
  const { value: note, set: setNote, drop } = useKept(`aside ${here.id} ${students.join(' ')}`, '');
  const [busy, setBusy] = useState(false);
  const [only] = students;
  const one = students.length === 1 && only !== undefined;
  const who = one ? nameOf(here, only) : plural(students.length, 'student');
  const save = async (e: FormEvent) => {
    e.preventDefault();
    setBusy(true);
    await attempt(async () => {
      await ask(contract.desk.aside, { course: here.id }, { body: { students, until, note } });
      drop();
      await refreshAll();
      toast(`${who} ${one ? 'is' : 'are'} set aside until ${weekdayDateWords(until)}.`, {
        action: {
          label: 'Undo',
          onClick: () =>
            void attempt(() =>
              ask(contract.desk.aside, { course: here.id }, { body: { students, until: null } }).then(refreshAll),
            ),
        },
      });
      props.onClose();
    });
    setBusy(false);
  };
  return (
    <Dialog open onClose={props.onClose} title={`Set ${who} aside`}>
      <form onSubmit={(e) => void save(e)} className="grid gap-4 px-6 py-5">
        <DateField
          label={one ? 'Show this student again on' : 'Show these students again on'}
          value={until}
          min={dateOf(today + 1)}
          max={dateOf(today + 365)}
          onChange={setUntil}
        />
        <Labelled label="Note for you and your colleagues">
          {(id) => (
            <textarea
              id={id}
              className="field min-h-20 py-2"
              maxLength={longest(asideNote)}
              value={note}
              placeholder="Talked on the phone, waiting for a doctor’s note …"
              onChange={(e) => setNote(e.target.value)}
            />
          )}
        </Labelled>
        <p className="text-[14px] text-ink-2">
          Rules keep running as before. Only Today leaves {one ? 'the student' : 'these students'} out.
        </p>
        <div>
          <Button look="main" type="submit" busy={busy}>
            Set aside
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { dateOf, weekdayDateWords } from '@zest-bell/core';
import { api } from '../app/api.ts';
import { attempt } from '../app/attempt.ts';
import { nameOf, type Here } from '../app/here.ts';
import { refreshAll } from '../app/queries.ts';
import { Button } from '../ui/Button.tsx';
import { Dialog } from '../ui/Dialog.tsx';
import { DateField, Labelled } from '../ui/fields.tsx';

/** Takes a student off the list until a day, with a note on why. Rules go on as before. */
export function AsideDialog(props: { readonly here: Here; readonly student: string; readonly onClose: () => void }) {
  const { here, student } = props;
  const today = here.course.calendar.dayNumber(here.now);
  const [until, setUntil] = useState(dateOf(today + 7));
  const [note, setNote] = useState('');
  const [busy, setBusy] = useState(false);
  const name = nameOf(here, student);
  const save = async (e: FormEvent) => {
    e.preventDefault();
    setBusy(true);
    await attempt(async () => {
      await api.put(`/courses/${here.id}/students/${encodeURIComponent(student)}/aside`, { until, note });
      await refreshAll();
      toast(`${name} is set aside until ${weekdayDateWords(until)}.`);
      props.onClose();
    });
    setBusy(false);
  };
  return (
    <Dialog open onClose={props.onClose} title={`Set ${name} aside`}>
      <form onSubmit={(e) => void save(e)} className="grid gap-4 px-6 py-5">
        <DateField
          label="Show this student again on"
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
              maxLength={2000}
              value={note}
              placeholder="Talked on the phone, waiting for a doctor’s note …"
              onChange={(e) => setNote(e.target.value)}
            />
          )}
        </Labelled>
        <p className="text-[14px] text-ink-2">Rules go on as before. Only this list leaves the student out.</p>
        <div>
          <Button look="main" type="submit" busy={busy}>
            Set aside
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

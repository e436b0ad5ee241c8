/** Private notes about a student: seen only by their author. */
import { longest } from '@zest-bell/core/problem';
import { contract, noteText } from '@zest-bell/core/contract';
import type { FormEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import type { Person } from '@zest-bell/core/course';
import type { NoteLine } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { queryClient } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { useKept } from '../../lib/useKept.ts';
import { When } from '../../ui/When.tsx';

export const useNotes = (here: CourseHere, student: string) =>
  useQuery({
    queryKey: ['notes', here.id, student],
    queryFn: () => ask(contract.desk.notes, { course: here.id, student }),
    enabled: student !== '',
  });

export function NotesPart(props: {
  readonly here: CourseHere;
  readonly person: Person;
  readonly notes: readonly NoteLine[];
}) {
  const { here, person, notes } = props;
  const { value: text, set: setText, drop } = useKept(`note ${here.id} ${person.id}`, '');
  const path = { course: here.id, student: person.id };
  const again = () =>
    Promise.all([
      queryClient.invalidateQueries({ queryKey: ['notes', here.id] }),
      queryClient.invalidateQueries({ queryKey: ['remarks', here.id] }),
    ]);
  const add = async (e: FormEvent) => {
    e.preventDefault();
    await attempt(async () => {
      await ask(contract.desk.addNote, path, { body: { text } });
      drop();
      await again();
    });
  };
  const remove = (note: NoteLine) =>
    attempt(() => ask(contract.desk.removeNote, { ...path, note: note.id }).then(again));
  return (
    <div>
      <form onSubmit={(e) => void add(e)} className="rounded-[16px] border border-line bg-sheet px-5 py-4">
        <label htmlFor="note" className="text-[14px] font-semibold text-ink-2">
          A note about {person.firstName}. Only you see it.
        </label>
        <textarea
          id="note"
          className="field mt-1 min-h-20 w-full"
          maxLength={longest(noteText)}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <Button look="main" type="submit" className="mt-2" disabled={text.trim() === ''}>
          Save note
        </Button>
      </form>
      <ul aria-label="Notes" className="mt-3 grid gap-2">
        {notes.map((n) => (
          <li key={n.id} className="rounded-xl bg-brass-soft px-4 py-2.5">
            <p className="break-words whitespace-pre-line">{n.text}</p>
            <p className="mt-1 flex gap-4 text-[13.5px] text-ink-2">
              <When at={n.at} zone={here.course.timeZone} />
              <button
                type="button"
                className="font-semibold underline underline-offset-4"
                aria-label={`Remove the note “${n.text.slice(0, 40)}”`}
                onClick={() => void remove(n)}
              >
                Remove
              </button>
            </p>
          </li>
        ))}
      </ul>
    </div>
  );
}

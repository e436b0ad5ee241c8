/** Items without a due date, which stop every rule about missing work: typed in one table, pasted, or guessed from their weeks. */
import { useState } from 'react';
import { plural } from '@zest-bell/core/time';
import { guessedDue, type Item } from '@zest-bell/core/course';
import type { Here } from '../../lib/here.ts';
import { PasteDialog } from '../files/PasteDialog.tsx';
import { Button } from '../../ui/Button.tsx';
import { fromLocal, toLocal } from '../../ui/instants.ts';
import { useKept } from '../../lib/useKept.ts';
import { useEdit } from '../editing/useEdit.ts';

/** Kinds that are handed in. */
const WORK: ReadonlySet<Item['kind']> = new Set<Item['kind']>(['assignment', 'quiz', 'forum']);

export const withoutDue = (here: Here): readonly Item[] =>
  here.course.items.filter((i) => i.dueAt === null && WORK.has(i.kind));

export function DueDates({ here }: { readonly here: Here }) {
  const items = withoutDue(here);
  const zone = here.course.timeZone;
  const { value: typed, set, drop } = useKept<Readonly<Record<string, string>>>(`due dates ${here.id}`, {});
  const [pasting, setPasting] = useState(false);
  const editing = useEdit(here);
  if (items.length === 0) return null;
  const guesses = items.flatMap((item) => {
    const due = guessedDue(item.title, here.course);
    return due === null || typed[item.id] ? [] : [[item.id, toLocal(due, zone)] as const];
  });
  const given = items.flatMap((item) => {
    const dueAt = fromLocal(typed[item.id] ?? '', zone);
    return dueAt === null ? [] : [{ id: item.id, set: { dueAt } }];
  });
  const save = async () => {
    if (await editing.save({ items: given })) drop();
  };
  return (
    <section aria-label="Due dates" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">
        {plural(items.length, 'item')} {items.length === 1 ? 'has' : 'have'} no due date
      </h2>
      <p className="text-[14.5px] text-ink-2">
        Rules about missing work and due dates do not see {items.length === 1 ? 'it' : 'them'} until then. Type the
        dates, paste them, or drop a calendar among the files.
      </p>
      <div className="mt-2 max-h-80 overflow-auto">
        <table className="w-full text-left text-[14.5px]">
          <tbody>
            {items.map((item) => (
              <tr key={item.id} className="border-t border-line">
                <td className="py-1 pr-4 break-words">{item.title}</td>
                <td className="py-1 text-right">
                  <input
                    type="datetime-local"
                    aria-label={`${item.title} is due`}
                    className="field min-h-8 py-0.5"
                    value={typed[item.id] ?? ''}
                    onChange={(e) => set({ ...typed, [item.id]: e.target.value })}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button look="main" busy={editing.busy} disabled={given.length === 0} onClick={() => save()}>
          {given.length === 0 ? 'Save due dates' : `Save ${plural(given.length, 'due date')}`}
        </Button>
        {guesses.length > 0 && (
          <Button onClick={() => set({ ...typed, ...Object.fromEntries(guesses) })}>
            {`Fill in ${plural(guesses.length, 'guess', 'guesses')} from the weeks in titles`}
          </Button>
        )}
        <Button onClick={() => setPasting(true)}>Paste dates</Button>
      </div>
      {pasting && <PasteDialog here={here} kind="items" onClose={() => setPasting(false)} />}
    </section>
  );
}

/** A later due date on several items at once, for people or a section. */
import { useState } from 'react';
import { instantWords, plural } from '@zest-bell/core/time';
import { isActiveStudent, type Item, nameIn } from '@zest-bell/core/course';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Check, NumberField, SelectField } from '../../ui/fields.tsx';
import { Collisions } from './Collisions.tsx';
import { useEdit } from './useEdit.ts';

/** Students that are ticked, in place of a section. */
const CHOSEN = '';

export function ExtensionDialog(props: {
  readonly here: CourseHere;
  readonly items: readonly Item[];
  /** Who is ticked at first. */
  readonly student?: string;
  readonly onClose: (done: boolean) => void;
}) {
  const { here } = props;
  // As they are by now, also where somebody else saves in the meantime.
  const items = props.items.map((i) => here.course.items[here.course.itemIndex.get(i.id) ?? -1] ?? i);
  const dated = items.filter((i) => i.dueAt !== null);
  const sections = [...new Set(here.course.people.flatMap((p) => p.section ?? []))].toSorted();
  const students = here.course.people.filter(isActiveStudent);
  const [who, setWho] = useState<string>(CHOSEN);
  const [people, setPeople] = useState<ReadonlySet<string>>(
    new Set(props.student === undefined ? [] : [props.student]),
  );
  const [days, setDays] = useState<number | null>(3);
  const edit = useEdit(here);
  const dueOf = (item: Item) => here.course.calendar.addDays(item.dueAt!, days ?? 0);
  const save = async () => {
    const given = who === CHOSEN ? [...people].map((person) => ({ person })) : [{ section: who }];
    const extended = dated.map((item) => {
      const kept = item.extensions.filter(
        (e) => !given.some((g) => ('person' in g ? e.person === g.person : e.section === g.section)),
      );
      const extensions = [...given.map((g) => ({ ...g, dueAt: dueOf(item) })), ...kept];
      return { id: item.id, set: { extensions }, was: { extensions: item.extensions } };
    });
    if (await edit.save({ items: extended })) props.onClose(true);
  };
  const ready = dated.length > 0 && days !== null && (who !== CHOSEN || people.size > 0);
  return (
    <Dialog
      open
      onClose={() => props.onClose(false)}
      title="Give an extension"
      note={
        dated.length < props.items.length
          ? `${plural(props.items.length - dated.length, 'chosen item')} without a due date ${props.items.length - dated.length === 1 ? 'is' : 'are'} left out`
          : plural(dated.length, 'item')
      }
      foot={
        <Button look="main" busy={edit.busy} disabled={!ready} onClick={() => save()}>
          {`Extend ${plural(dated.length, 'item')}`}
        </Button>
      }
    >
      <div className="grid gap-4 px-6 py-5">
        <Collisions edit={edit} shown={[]} />
        <SelectField label="For" value={who} onChange={(e) => setWho(e.target.value)}>
          <option value={CHOSEN}>Students that I choose</option>
          {sections.map((s) => (
            <option key={s} value={s}>
              Section {s}
            </option>
          ))}
        </SelectField>
        {who === CHOSEN && (
          <div className="grid max-h-52 gap-x-4 overflow-auto rounded-xl border border-line p-3 min-[500px]:grid-cols-2">
            {students.map((s) => (
              <Check
                key={s.id}
                label={nameIn(here.course, s.id)}
                checked={people.has(s.id)}
                onChange={(on) => {
                  const next = new Set(people);
                  if (on) next.add(s.id);
                  else next.delete(s.id);
                  setPeople(next);
                }}
              />
            ))}
          </div>
        )}
        <NumberField label="Later by" value={days} min={1} max={200} whole unit="days" onChange={setDays} />
        <ul className="text-[14px] text-ink-2">
          {dated.slice(0, 8).map((item) => (
            <li key={item.id}>
              {item.title}: due {instantWords(dueOf(item), here.course.timeZone)}
            </li>
          ))}
          {dated.length > 8 && <li>and {dated.length - 8} more</li>}
        </ul>
      </div>
    </Dialog>
  );
}

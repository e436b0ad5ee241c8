/** One item with all that rules and messages know of it; or a new one. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { plural } from '@zest-bell/core/time';
import { rangeIn } from '@zest-bell/core/problem';
import {
  isSame,
  mergedSet,
  fullName,
  isActiveStudent,
  itemEditSchema,
  ITEM_KINDS,
  type Item,
  type ItemEdit,
  nameIn,
} from '@zest-bell/core/course';
import { namesOfRule } from '@zest-bell/core/rules';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled, NumberField, SelectField } from '../../ui/fields.tsx';
import { fromLocal, toLocal } from '../../ui/instants.ts';
import { ITEM_KIND_WORDS } from '../../parts/common/itemKindWords.ts';
import { useKept } from '../../lib/useKept.ts';
import { Collisions } from '../../parts/editing/Collisions.tsx';
import { useEdit } from '../../parts/editing/useEdit.ts';

export function ItemDialog(props: {
  readonly here: CourseHere;
  readonly item: Item | null;
  readonly onClose: () => void;
}) {
  const { here } = props;
  // As it is by now, also where somebody else saves in the meantime.
  const item = props.item && (here.course.items[here.course.itemIndex.get(props.item.id) ?? -1] ?? props.item);
  const zone = here.course.timeZone;
  const edit = useEdit(here);
  const [asked, setAsked] = useState(false);
  const rules = useQuery({ queryKey: ['rules', here.id], queryFn: () => ask(contract.rules.all, { course: here.id }) });
  const looking = (rules.data ?? [])
    .filter(({ rule }) => item && namesOfRule(rule).some((n) => n.kind === 'item' && n.name === item.id))
    .map(({ rule }) => rule.name);
  const saved: ItemEdit = {
    title: item?.title ?? '',
    kind: item?.kind ?? 'assignment',
    group: item?.group ?? '',
    points: item?.points ?? null,
    opensAt: item?.opensAt ?? null,
    dueAt: item?.dueAt ?? null,
    topics: item ? [...item.topics] : [],
    excused: item ? [...item.excused] : [],
    extensions: item ? item.extensions.map((e) => ({ ...e })) : [],
    url: item?.url ?? '',
  };
  const { value: typed, set: setTyped, drop } = useKept(`item ${here.id} ${item?.id ?? 'new'}`, saved);
  const { value: was, set: setWas, drop: dropWas } = useKept(`item before ${here.id} ${item?.id ?? 'new'}`, saved);
  // What somebody else changes in the meantime shows at once, but for what is typed here.
  const draft = mergedSet(saved, typed, was, saved).set;
  const dirty = !isSame(draft, saved);
  const {
    value: topics,
    set: setTopics,
    drop: dropTopics,
  } = useKept(`topics ${here.id} ${item?.id ?? 'new'}`, saved.topics.join(', '));
  const done = () => {
    drop();
    dropWas();
    dropTopics();
    props.onClose();
  };
  const set = (part: Partial<ItemEdit>) => {
    edit.clear();
    setWas((before) => before);
    setTyped((d) => ({ ...d, ...part }));
  };
  const students = here.course.people.filter(isActiveStudent);
  const nameOf = (id: string) => {
    const person = here.course.people[here.course.personIndex.get(id) ?? -1];
    return person ? fullName(person) : id;
  };
  const named = new Set(
    topics
      .toLowerCase()
      .split(/[,;]/)
      .map((t) => t.trim())
      .filter(Boolean),
  );
  const helping = here.course.items.filter(
    (i) =>
      i.id !== item?.id &&
      (i.kind === 'page' || i.kind === 'practice') &&
      i.topics.some((t) => named.has(t.toLowerCase())),
  );
  const save = async () => {
    const list = topics
      .split(/[,;]/)
      .map((t) => t.trim())
      .filter(Boolean);
    const entry = {
      id: item?.id ?? null,
      set: { ...draft, topics: list },
      was,
      seen: edit.collided ? saved : undefined,
    };
    if (await edit.save({ items: [entry] })) done();
  };
  const remove = async () => {
    if (looking.length > 0 && !asked) return setAsked(true);
    if (await edit.save({ items: [{ id: item!.id, set: null }] })) done();
  };
  const when = (field: 'opensAt' | 'dueAt', label: string) => (
    <Labelled label={label} problem={edit.problemOf(field)}>
      {(id) => (
        <input
          id={id}
          type="datetime-local"
          className="field font-num text-[13.5px]"
          value={toLocal(draft[field], zone)}
          onChange={(e) =>
            set({ [field]: e.target.value === '' ? null : (fromLocal(e.target.value, zone) ?? draft[field]) })
          }
        />
      )}
    </Labelled>
  );
  const groups = [...new Set(here.course.items.flatMap((i) => i.group ?? []))];
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={item?.title ?? 'Add an item'}
      note={
        item &&
        looking.length > 0 &&
        `${plural(looking.length, 'rule')} ${looking.length === 1 ? 'looks' : 'look'} at this item: ${looking.join('; ')}`
      }
      foot={
        <>
          <Button look="main" busy={edit.busy} onClick={() => save()}>
            {item ? 'Save changes' : 'Add item'}
          </Button>
          {(dirty || topics !== saved.topics.join(', ')) && <Button onClick={done}>Discard changes</Button>}
          {item && (
            <Button className="ml-auto" busy={edit.busy} onClick={() => remove()}>
              {asked ? `Remove it from under ${plural(looking.length, 'rule')}` : 'Remove item'}
            </Button>
          )}
        </>
      }
    >
      <div className="grid gap-4 px-6 py-5 min-[500px]:grid-cols-2">
        <Collisions edit={edit} shown={['title', 'group', 'url', 'opensAt', 'dueAt']} />
        {asked && (
          <p role="alert" className="rounded-xl bg-tangerine-soft px-4 py-3 text-tangerine-text min-[500px]:col-span-2">
            ▲ {looking.map((n) => `“${n}”`).join('; ')} {looking.length === 1 ? 'looks' : 'look'} at this item. Without
            it {looking.length === 1 ? 'that rule cannot' : 'those rules cannot'} run until you choose another item. You
            can undo the removal.
          </p>
        )}
        <div className="min-[500px]:col-span-2">
          <Labelled label="Title" problem={edit.problemOf('title')}>
            {(id) => (
              <input
                id={id}
                className="field w-full"
                value={draft.title}
                aria-invalid={edit.problemOf('title') !== undefined}
                onChange={(e) => set({ title: e.target.value })}
              />
            )}
          </Labelled>
        </div>
        <SelectField label="Kind" value={draft.kind} onChange={(e) => set({ kind: e.target.value as Item['kind'] })}>
          {ITEM_KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {ITEM_KIND_WORDS[kind]}
            </option>
          ))}
        </SelectField>
        <Labelled label="Group" problem={edit.problemOf('group')}>
          {(id) => (
            <>
              <input
                id={id}
                className="field"
                list={`${id}-groups`}
                value={draft.group ?? ''}
                onChange={(e) => set({ group: e.target.value })}
              />
              <datalist id={`${id}-groups`}>
                {groups.map((g) => (
                  <option key={g} value={g} />
                ))}
              </datalist>
            </>
          )}
        </Labelled>
        <NumberField
          label="Points possible"
          value={draft.points}
          {...rangeIn(itemEditSchema.shape.points)}
          empty="none"
          onChange={(points) => set({ points })}
        />
        <Labelled label="Topics, separated by commas">
          {(id) => (
            <input
              id={id}
              className="field"
              value={topics}
              placeholder="tides, currents"
              onChange={(e) => setTopics(e.target.value)}
            />
          )}
        </Labelled>
        {helping.length > 0 && (
          <p className="text-[14px] text-ink-2 min-[500px]:col-span-2">
            Readings and drills on these topics, which messages can list: {helping.map((i) => i.title).join('; ')}
          </p>
        )}
        {when('opensAt', 'Opens')}
        {when('dueAt', 'Due')}
        <div className="min-[500px]:col-span-2">
          <Labelled label="Page address" problem={edit.problemOf('url')}>
            {(id) => (
              <input
                id={id}
                className="field w-full"
                value={draft.url ?? ''}
                placeholder="https://"
                onChange={(e) => set({ url: e.target.value })}
              />
            )}
          </Labelled>
        </div>
        <fieldset className="grid gap-2 min-[500px]:col-span-2">
          <legend className="text-[15px] font-bold">Excused people</legend>
          <span className="flex flex-wrap gap-1.5">
            {draft.excused.map((id) => (
              <button
                key={id}
                className="rounded-full bg-fog px-3 py-1 text-[13.5px] font-semibold"
                aria-label={`${nameOf(id)} is excused. Remove`}
                onClick={() => set({ excused: draft.excused.filter((e) => e !== id) })}
              >
                {nameOf(id)} ✕
              </button>
            ))}
          </span>
          <select
            aria-label="Excuse a student"
            className="field w-fit"
            value=""
            onChange={(e) => e.target.value && set({ excused: [...draft.excused, e.target.value] })}
          >
            <option value="">Excuse a student …</option>
            {students
              .filter((s) => !draft.excused.includes(s.id))
              .map((s) => (
                <option key={s.id} value={s.id}>
                  {nameIn(here.course, s.id)}
                </option>
              ))}
          </select>
        </fieldset>
        <fieldset className="grid gap-2 min-[500px]:col-span-2">
          <legend className="text-[15px] font-bold">Extensions</legend>
          {draft.extensions.map((e, i) => (
            <span key={i} className="flex flex-wrap items-center gap-2">
              <strong className="min-w-40">{e.person === undefined ? `Section ${e.section}` : nameOf(e.person)}</strong>
              <input
                type="datetime-local"
                aria-label="Due for them"
                className="field font-num text-[13.5px]"
                value={toLocal(e.dueAt, zone)}
                onChange={(ev) => {
                  const dueAt = fromLocal(ev.target.value, zone);
                  if (dueAt !== null)
                    set({ extensions: draft.extensions.map((x, n) => (n === i ? { ...x, dueAt } : x)) });
                }}
              />
              <Button look="quiet" onClick={() => set({ extensions: draft.extensions.filter((_, n) => n !== i) })}>
                Remove
              </Button>
            </span>
          ))}
          <p className="text-[14px] text-ink-2">
            Give new ones from the list of items: choose items there, then “Give an extension”.
          </p>
        </fieldset>
      </div>
    </Dialog>
  );
}

/** The items of the course in their order: what they are worth, when they are due, who need not do them or may do them later. */
import { useMemo, useState } from 'react';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { Link, useSearchParams } from 'react-router';
import { instantWords, plural } from '@zest-bell/core/time';
import type { Item } from '@zest-bell/core/course';
import { itemsTable } from '@zest-bell/core/exports';
import type { ItemDone } from '@zest-bell/core/lookout';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { useAsOf } from '../../lib/termMoment.ts';
import { useOverview } from '../../lib/useOverview.ts';
import { WriteToOthers } from '../../parts/editing/WriteToOthers.tsx';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { Empty } from '../../parts/common/States.tsx';
import { PasteDialog } from '../../parts/files/PasteDialog.tsx';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { CourseTabPage } from './CourseTabPage.tsx';
import { ExtensionDialog } from '../../parts/editing/ExtensionDialog.tsx';
import { ItemDialog } from './ItemDialog.tsx';
import { ITEM_KIND_WORDS } from '../../parts/common/itemKindWords.ts';
import { useEdit } from '../../parts/editing/useEdit.ts';

export function ItemsPage() {
  const here = useHere();
  const zone = here.course.timeZone;
  const { items } = here.course;
  const edit = useEdit(here);
  const [open, setOpen] = useState<Item | 'new' | null>(null);
  // Opened for an item, to extend its due date.
  const asked = useSearchParams()[0].get('extend');
  const [extending, setExtending] = useState(asked !== null);
  const [pasting, setPasting] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(asked === null ? [] : [asked]));
  const move = (at: number, by: number) => {
    const order = items.map((i) => i.id);
    const [id] = order.splice(at, 1);
    order.splice(at + by, 0, id!);
    void edit.save({ order });
  };
  const byDue = () =>
    void edit.save({ order: items.toSorted((a, b) => (a.dueAt ?? Infinity) - (b.dueAt ?? Infinity)).map((i) => i.id) });
  const done = useDone(here);
  const [fewest, setFewest] = useState(false);
  const [writing, setWriting] = useState<Item | null>(null);
  const share = ({ id }: Item) => {
    const of = done.get(id);
    return of && of.did + of.not > 0 ? of.did / (of.did + of.not) : Infinity;
  };
  const listed = fewest ? items.toSorted((a, b) => share(a) - share(b)) : items;
  const toggle = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  return (
    <CourseTabPage
      here={here}
      tab="/items"
      actions={
        <>
          <Button needs="data.write" onClick={() => setPasting(true)}>
            Paste rows
          </Button>
          {items.length > 1 && (
            <Button needs="data.write" onClick={byDue}>
              Sort by due date
            </Button>
          )}
          <Button needs="data.write" look="main" onClick={() => setOpen('new')}>
            Add an item
          </Button>
          {items.length > 0 && (
            <ExportMenu what={plural(items.length, 'item')} table={() => itemsTable(here.course, items)} />
          )}
        </>
      }
      filters={
        items.length > 0 ? (
          <>
            <p role="status" className="min-h-9 content-center text-[14px] text-ink-2">
              {plural(items.length, 'item')}
            </p>
            <Pill pressed={fewest} onClick={() => setFewest(!fewest)}>
              Fewest turned in first
            </Pill>
            {chosen.size > 0 && (
              <>
                <strong className="text-[14px]">{plural(chosen.size, 'item')} chosen</strong>
                <Button needs="data.write" onClick={() => setExtending(true)}>
                  Give an extension
                </Button>
              </>
            )}
          </>
        ) : undefined
      }
    >
      {items.length === 0 ? (
        <Empty title="No items yet">
          Assignments, quizzes, forums and pages belong here. Rules can then look at them.{' '}
          <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course/data`}>
            Bring a list of items in
          </Link>
          , or add the first one.
        </Empty>
      ) : (
        <>
          <div className="overflow-x-auto rounded-[14px] border border-line bg-sheet">
            <table className="w-full min-w-[820px] text-left text-[14.5px]">
              <thead className="text-[13px] text-ink-2">
                <tr className="border-b border-line-strong">
                  <th className="w-10 px-4 py-2.5">
                    <input
                      type="checkbox"
                      aria-label="Choose all items"
                      className="size-4 accent-(--pine)"
                      checked={chosen.size === items.length}
                      onChange={() =>
                        setChosen(chosen.size === items.length ? new Set() : new Set(items.map((i) => i.id)))
                      }
                    />
                  </th>
                  <th className="px-2">Title</th>
                  <th className="px-2">Kind</th>
                  <th className="px-2">Group</th>
                  <th className="px-2 text-right">Points</th>
                  <th className="px-2">Due</th>
                  <th className="px-2">Opened or turned in</th>
                  <th className="px-2">Exceptions</th>
                  <th className="px-2">Order</th>
                </tr>
              </thead>
              <tbody>
                {listed.map((item, i) => (
                  <tr key={item.id} className="border-b border-line last:border-b-0 hover:bg-fog">
                    <td className="px-4 py-2">
                      <input
                        type="checkbox"
                        aria-label={`Choose ${item.title}`}
                        className="size-4 accent-(--pine)"
                        checked={chosen.has(item.id)}
                        onChange={() => toggle(item.id)}
                      />
                    </td>
                    <td className="max-w-80 px-2">
                      <button
                        className="max-w-full truncate text-left font-semibold hover:underline"
                        onClick={() => setOpen(item)}
                      >
                        {item.title}
                      </button>
                    </td>
                    <td className="px-2">{ITEM_KIND_WORDS[item.kind]}</td>
                    <td className="px-2">{item.group ?? '–'}</td>
                    <td className="px-2 text-right font-num text-[13.5px]">{item.points ?? '–'}</td>
                    <td className="px-2 whitespace-nowrap">
                      {item.dueAt === null ? '–' : instantWords(item.dueAt, zone)}
                    </td>
                    <td className="px-2">
                      <DoneCell of={done.get(item.id)} busy={writing === item} onWrite={() => setWriting(item)} />
                    </td>
                    <td className="px-2">
                      <span className="flex flex-wrap gap-1">
                        {item.excused.length > 0 && <Chip tone="quiet">{item.excused.length} excused</Chip>}
                        {item.extensions.length > 0 && (
                          <Chip tone="iris">{plural(item.extensions.length, 'extension')}</Chip>
                        )}
                      </span>
                    </td>
                    <td className="px-2 whitespace-nowrap">
                      <button
                        aria-label={`Move ${item.title} up`}
                        disabled={fewest || i === 0 || edit.busy}
                        className="p-1.5 disabled:opacity-30"
                        onClick={() => move(i, -1)}
                      >
                        <ArrowUp size={16} aria-hidden />
                      </button>
                      <button
                        aria-label={`Move ${item.title} down`}
                        disabled={fewest || i === items.length - 1 || edit.busy}
                        className="p-1.5 disabled:opacity-30"
                        onClick={() => move(i, 1)}
                      >
                        <ArrowDown size={16} aria-hidden />
                      </button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <Weights here={here} />
        </>
      )}
      {open && <ItemDialog here={here} item={open === 'new' ? null : open} onClose={() => setOpen(null)} />}
      {extending && (
        <ExtensionDialog
          here={here}
          items={items.filter((i) => chosen.has(i.id))}
          onClose={(done) => {
            setExtending(false);
            if (done) setChosen(new Set());
          }}
        />
      )}
      {writing && <WriteToOthers here={here} item={writing} />}
      {pasting && <PasteDialog here={here} kind="items" onClose={() => setPasting(false)} />}
    </CourseTabPage>
  );
}

/** By item, how many have opened it, practiced it, or turned it in. */
function useDone(here: CourseHere): ReadonlyMap<string, ItemDone> {
  const answer = useOverview(here, useAsOf(here));
  return useMemo(() => new Map(answer.data?.done.map((d) => [d.item, d])), [answer.data]);
}

function DoneCell({ of, busy, onWrite }: { of: ItemDone | undefined; busy: boolean; onWrite: () => void }) {
  if (!of || of.did + of.not === 0) return '–';
  return (
    <span className="flex items-center gap-2 whitespace-nowrap">
      <span className="font-num text-[13.5px]">
        {of.did} of {of.did + of.not}
      </span>
      {of.not > 0 && (
        <Button needs="nudges.decide" look="quiet" busy={busy} onClick={onWrite}>
          {`Write to the ${of.not} who have not`}
        </Button>
      )}
    </span>
  );
}

/** How much each group counts for the course grade. Without weights every point counts the same. */
function Weights({ here }: { readonly here: CourseHere }) {
  const groups = [...new Set(here.course.items.flatMap((i) => i.group ?? []))];
  const saved = here.course.groupWeights;
  const [draft, setDraft] = useState<Readonly<Record<string, string>>>(() =>
    Object.fromEntries(groups.map((g) => [g, saved?.[g] === undefined ? '' : String(saved[g])])),
  );
  const edit = useEdit(here);
  if (groups.length === 0) return null;
  const weights = Object.fromEntries(
    Object.entries(draft).flatMap(([g, text]) => (text.trim() === '' ? [] : [[g, Number(text)]])),
  );
  const total = Object.values(weights).reduce((sum, w) => sum + (Number.isFinite(w) ? w : 0), 0);
  const bad = Object.values(weights).some((w) => !Number.isFinite(w) || w < 0);
  const save = () => edit.save({ groupWeights: Object.keys(weights).length === 0 ? null : weights });
  return (
    <section aria-label="Group weights" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Group weights</h2>
      <p className="text-[14px] text-ink-2">
        How much each group counts for the course grade. Leave all empty to count every point the same.
      </p>
      <div className="mt-3 flex flex-wrap items-end gap-4">
        {groups.map((group) => (
          <Labelled key={group} label={group}>
            {(id) => (
              <input
                id={id}
                inputMode="decimal"
                className="field w-24 font-num"
                value={draft[group] ?? ''}
                onChange={(e) => setDraft({ ...draft, [group]: e.target.value })}
              />
            )}
          </Labelled>
        ))}
        <Button needs="data.write" busy={edit.busy} disabled={bad} onClick={() => save()}>
          Save weights
        </Button>
        <span className="pb-2 text-[14px] text-ink-2">
          {bad ? '▲ Type numbers of 0 or more.' : total > 0 ? `Together ${Math.round(total * 100) / 100}` : ''}
        </span>
      </div>
    </section>
  );
}

/** Lists items without a due date, with proposals; dates are typed, pasted, or taken from a calendar. */
import { useRef, useState } from 'react';
import { contract } from '@zest-bell/core/contract';
import { instantWords, plural, type Instant } from '@zest-bell/core/time';
import type { Item } from '@zest-bell/core/course';
import { proposedDueDates, type DueSource } from '@zest-bell/core/imports';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { PasteDialog } from '../files/PasteDialog.tsx';
import { Button } from '../../ui/Button.tsx';
import { fromLocal, toLocal } from '../../ui/instants.ts';
import { useKept } from '../../lib/useKept.ts';
import { useEdit } from '../editing/useEdit.ts';

/** Kinds that are handed in. */
const WORK: ReadonlySet<Item['kind']> = new Set<Item['kind']>(['assignment', 'quiz', 'forum']);

const isAsked = (item: Item): boolean => item.dueAt === null && WORK.has(item.kind);

const withoutDue = (here: CourseHere): readonly Item[] => here.course.items.filter(isAsked);

const SOURCE_WORDS: Readonly<Record<DueSource, string>> = {
  date: 'the date in its title',
  week: 'the week in its title',
  number: 'its number in the series',
  order: 'the order of the items',
};

/** The due dates of a calendar that the user chose on this page. */
interface Calendar {
  readonly name: string;
  readonly dates: ReadonlyMap<string, Instant>;
  readonly others: number;
}

interface Proposal {
  readonly due: Instant;
  readonly from: string;
}

export function DueDates({ here }: { readonly here: CourseHere }) {
  const items = withoutDue(here);
  const zone = here.course.timeZone;
  const { value: typed, set, drop } = useKept<Readonly<Record<string, string>>>(`due dates ${here.id}`, {});
  const [pasting, setPasting] = useState(false);
  const [calendar, setCalendar] = useState<Calendar | null>(null);
  const editing = useEdit(here);
  if (items.length === 0) return null;
  const guessed = proposedDueDates(here.course, isAsked);
  const proposalOf = (item: Item): Proposal | null => {
    const named = calendar?.dates.get(item.id);
    if (calendar && named !== undefined) return { due: named, from: calendar.name };
    const guess = guessed.get(item.id);
    return guess ? { due: guess.due, from: SOURCE_WORDS[guess.from] } : null;
  };
  const open = items.flatMap((item) => {
    const proposal = proposalOf(item);
    return proposal === null || typed[item.id] ? [] : [[item.id, toLocal(proposal.due, zone)] as const];
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
        dates, paste them, or look over what is proposed: nothing is saved before you press Save.
      </p>
      {calendar && <CalendarNote calendar={calendar} />}
      <div className="mt-2 max-h-80 overflow-auto">
        <table className="w-full text-left text-[14.5px]">
          <tbody>
            {items.map((item) => (
              <DueRow
                key={item.id}
                item={item}
                zone={zone}
                typed={typed[item.id] ?? ''}
                proposal={proposalOf(item)}
                onType={(text) => set({ ...typed, [item.id]: text })}
              />
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button look="main" busy={editing.busy} disabled={given.length === 0} onClick={() => save()}>
          {given.length === 0 ? 'Save due dates' : `Save ${plural(given.length, 'due date')}`}
        </Button>
        {open.length > 0 && (
          <Button onClick={() => set({ ...typed, ...Object.fromEntries(open) })}>
            {`Fill in ${plural(open.length, 'proposed date')}`}
          </Button>
        )}
        <CalendarButton here={here} onRead={setCalendar} />
        <Button onClick={() => setPasting(true)}>Paste dates</Button>
      </div>
      {pasting && <PasteDialog here={here} kind="items" onClose={() => setPasting(false)} />}
    </section>
  );
}

function DueRow(props: {
  readonly item: Item;
  readonly zone: string;
  readonly typed: string;
  readonly proposal: Proposal | null;
  readonly onType: (text: string) => void;
}) {
  const { item, zone, typed, proposal } = props;
  return (
    <tr className="border-t border-line">
      <td className="py-1 pr-4 break-words">{item.title}</td>
      <td className="py-1 pr-4 text-[13.5px] text-ink-2">
        {proposal && `${instantWords(proposal.due, zone)}, from ${proposal.from}`}
      </td>
      <td className="py-1 text-right">
        <input
          type="datetime-local"
          aria-label={`${item.title} is due`}
          className="field min-h-8 py-0.5"
          value={typed}
          onChange={(e) => props.onType(e.target.value)}
        />
      </td>
    </tr>
  );
}

const CalendarNote = ({ calendar: { name, dates, others } }: { readonly calendar: Calendar }) => (
  <p role="status" className="mt-2 text-[14.5px]">
    {dates.size === 0
      ? `${name} names no item that has no due date.`
      : `${name} has the dates of ${plural(dates.size, 'item')}.`}
    {others > 0 && ` ${plural(others, 'other event')} in it ${others === 1 ? 'names' : 'name'} no item of this course.`}
  </p>
);

function CalendarButton({
  here,
  onRead,
}: {
  readonly here: CourseHere;
  readonly onRead: (calendar: Calendar | null) => void;
}) {
  const chooser = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const read = async (file: File) => {
    setBusy(true);
    const answer = await attempt(() =>
      ask(contract.intake.calendarDue, { course: here.id }, { query: { name: file.name }, upload: file }),
    );
    setBusy(false);
    if (!answer) return;
    const dates = new Map(answer.dates.map(({ item, due }) => [item, due]));
    onRead({ name: file.name, dates, others: answer.others });
  };
  return (
    <>
      <input
        ref={chooser}
        type="file"
        accept=".ics"
        className="sr-only"
        aria-label="Choose a calendar"
        tabIndex={-1}
        onChange={(e) => e.target.files?.[0] && void read(e.target.files[0])}
      />
      <Button busy={busy} onClick={() => chooser.current?.click()}>
        Use a calendar
      </Button>
    </>
  );
}

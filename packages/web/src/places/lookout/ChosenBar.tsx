/** What can be done with the students who were chosen, or with all who are shown. */
import { DropdownMenu } from 'radix-ui';
import { Ellipsis } from 'lucide-react';
import { menuItem } from '../../ui/menu.ts';
import { useMedia } from '../../ui/useMedia.ts';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { DAY, plural } from '@zest-bell/core/time';
import { conditionSentence } from '@zest-bell/core/conditions';
import { ruleBrushWords, type LookoutView } from '@zest-bell/core/lookout';
import { lookoutTable } from '@zest-bell/core/exports';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { queryClient, useWordings } from '../../lib/queries.ts';
import { AsideDialog } from '../../parts/editing/AsideDialog.tsx';
import { ExportItems, ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { Button } from '../../ui/Button.tsx';
import type { BackGroup } from '../../lib/backGroup.ts';
import { useChosen, writeWords } from '../../parts/editing/chosen.ts';
import { lastWritten } from '../../parts/editing/written.ts';
import { logWords } from '../../parts/table/FilterSentence.tsx';
import { useRuleNames } from '../../parts/table/ruleNames.ts';
import { nameFrom, ruleFrom } from '../../parts/editing/ruleFrom.ts';
import type { Lookout } from '../../parts/table/useLookout.ts';

/** Its id: keys go there without passing every header. */
export const CHOSEN_BAR = 'chosen-bar';

export interface ChosenBarProps {
  readonly here: CourseHere;
  readonly view: LookoutView;
  readonly lookout: Lookout;
  /** Rows that are meant, in the order of the table. */
  readonly rows: readonly number[];
  /** How many students the course has. */
  readonly of: number;
  /** True when rows were ticked; otherwise all that are shown are meant. */
  readonly ticked: boolean;
  /** How many are ticked and not shown. */
  readonly hidden: number;
  readonly onUntick: () => void;
}

export function ChosenBar({ here, view, lookout, rows, of, ticked, hidden, onUntick }: ChosenBarProps) {
  const navigate = useNavigate();
  const isPhone = useMedia('(max-width: 559px)');
  const wordings = useWordings(here.id);
  const names = useRuleNames(here);
  const [aside, setAside] = useState(false);
  const [busy, setBusy] = useState(false);
  const { table, log, remarks } = lookout;
  const students = rows.map((row) => table!.students[row]!);
  const lately = students.filter((s) => (log[s]?.last?.at ?? -Infinity) > here.now - 7 * DAY).length;
  const pinned = students.length > 0 && students.every((s) => remarks.pins.includes(s));

  const write = () => {
    const who = view.when === null ? '' : conditionSentence(view.when, here.course);
    useChosen.getState().choose({ course: here.id, students, who: ticked ? '' : who, about: who, subject: '' });
    void navigate(`/c/${here.id}/write`);
  };
  const back = () => void navigate(`/c/${here.id}/log/back`, { state: { students } satisfies BackGroup });
  const pin = async () => {
    const set = (on: boolean) =>
      ask(contract.desk.pins, { course: here.id }, { body: { students, pinned: on } }).then(() =>
        queryClient.invalidateQueries({ queryKey: ['remarks', here.id] }),
      );
    await attempt(async () => {
      await set(!pinned);
      toast(`${plural(students.length, 'student')} ${pinned ? 'no longer pinned' : 'pinned'}.`, {
        action: { label: 'Undo', onClick: () => void attempt(() => set(pinned)) },
      });
    });
  };
  const saveAsRule = async () => {
    if (view.when === null) return;
    setBusy(true);
    const card = await ruleFrom(here, wordings.data ?? [], {
      name: nameFrom(view.when, here.course),
      when: view.when,
      written: lastWritten(here.id, conditionSentence(view.when, here.course)),
    });
    setBusy(false);
    if (!card) return;
    const left = [
      ...view.logBrushes.map((b) => {
        const { lead, marked } = logWords(b);
        return `${lead} ${marked}`.trim();
      }),
      ...view.ruleBrushes.map((b) => {
        const { lead, after } = ruleBrushWords(b.brush);
        return `${lead} “${names.get(b.rule) ?? ''}” ${after}`.trim();
      }),
    ];
    if (left.length > 0) {
      toast('The rule has every condition except those about the log and other rules.', {
        description: `Left out: ${left.join(', ')}.`,
        duration: 10_000,
      });
    }
    await navigate(`/c/${here.id}/rules/${card.rule.id}`);
  };
  /** As it is shown: its columns, its rows, its order. */
  const exported = () =>
    lookoutTable(here.course, {
      students,
      columns: view.columns,
      value: (column, place) => table!.columns[column]?.values[rows[place]!] ?? null,
      rules: names,
    });
  const n = students.length;
  const noRule =
    view.when === null
      ? view.logBrushes.length + view.ruleBrushes.length > 0
        ? 'Columns from the log, and rules, cannot be part of a rule. Add a condition on something else.'
        : 'Brush a column first: a rule needs a condition.'
      : undefined;
  return (
    <div
      id={CHOSEN_BAR}
      tabIndex={-1}
      role="group"
      aria-label="What to do with them"
      className="on-strip sticky bottom-[calc(0.25rem+var(--dock))] z-20 mt-1.5 flex items-center gap-x-3 gap-y-2 rounded-[14px] bg-strip px-4 py-1 text-white min-[560px]:flex-wrap max-[759px]:bottom-20"
    >
      <p className="mr-auto min-w-0 text-[15px] max-[559px]:text-[13.5px]" role="status" data-testid="chosen">
        <strong data-testid="count">{ticked ? plural(n, 'student') : `${n} of ${plural(of, 'student')}`}</strong>{' '}
        {ticked ? 'chosen' : 'shown'}
        {!isPhone && lately > 0 && ` · ${lately} got a message from you in the last 7 days`}
        {hidden > 0 && ` · ${hidden} chosen ${hidden === 1 ? 'is' : 'are'} not shown now`}
        {(ticked || hidden > 0) && (
          <button type="button" className="ml-3 text-[14px] underline underline-offset-4" onClick={onUntick}>
            choose none
          </button>
        )}
      </p>
      <div className="flex gap-3">
        {isPhone ? (
          <DropdownMenu.Root>
            <DropdownMenu.Trigger
              aria-label="More to do with them"
              className="grid size-8 place-items-center rounded-[9px] bg-white/10"
            >
              <Ellipsis size={17} aria-hidden />
            </DropdownMenu.Trigger>
            <DropdownMenu.Portal>
              <DropdownMenu.Content align="end" sideOffset={6} className="pop z-50 min-w-52 p-1.5">
                <DropdownMenu.Item className={menuItem} disabled={n === 0} onSelect={() => setAside(true)}>
                  Set aside
                </DropdownMenu.Item>
                <DropdownMenu.Item className={menuItem} disabled={n === 0} onSelect={() => void pin()}>
                  {pinned ? 'Unpin' : 'Pin'}
                </DropdownMenu.Item>
                <DropdownMenu.Item className={menuItem} disabled={n === 0} onSelect={back}>
                  Who came back
                </DropdownMenu.Item>
                <DropdownMenu.Item
                  className={menuItem}
                  disabled={noRule !== undefined}
                  onSelect={() => void saveAsRule()}
                >
                  Save as a rule
                </DropdownMenu.Item>
                {n > 0 && (
                  <>
                    <DropdownMenu.Separator className="my-1 h-px bg-line" />
                    <ExportItems what={`Export ${plural(n, 'student')}`} table={exported} />
                  </>
                )}
              </DropdownMenu.Content>
            </DropdownMenu.Portal>
          </DropdownMenu.Root>
        ) : (
          <>
            <Button look="dark" disabled={n === 0} onClick={() => setAside(true)}>
              Set aside
            </Button>
            <Button look="dark" disabled={n === 0} onClick={() => pin()}>
              {pinned ? 'Unpin' : 'Pin'}
            </Button>
            <Button look="dark" disabled={n === 0} onClick={back}>
              Who came back
            </Button>
            <Button look="dark" busy={busy} disabled={noRule !== undefined} title={noRule} onClick={() => saveAsRule()}>
              Save as a rule
            </Button>
            <ExportMenu look="dark" what={plural(n, 'student')} table={exported} disabled={n === 0} />
          </>
        )}
        <Button needs="nudges.decide" look="zest" disabled={n === 0} onClick={write}>
          {isPhone ? `Write to ${n}` : writeWords(n)}
        </Button>
      </div>
      {aside && <AsideDialog here={here} students={students} onClose={() => setAside(false)} />}
    </div>
  );
}

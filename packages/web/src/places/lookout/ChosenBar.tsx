/** What can be done with the students who were chosen, or with all who are shown. */
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
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { Button } from '../../ui/Button.tsx';
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
  /** True when rows were ticked; otherwise all that are shown are meant. */
  readonly ticked: boolean;
  /** How many are ticked and not shown. */
  readonly hidden: number;
  readonly onUntick: () => void;
}

export function ChosenBar({ here, view, lookout, rows, ticked, hidden, onUntick }: ChosenBarProps) {
  const navigate = useNavigate();
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
      className="on-strip sticky bottom-[calc(0.75rem+var(--dock))] z-20 mx-5 mt-3 flex flex-wrap items-center gap-x-3 gap-y-2 rounded-[16px] bg-strip px-4 py-2.5 text-white max-[759px]:bottom-20"
    >
      <p className="mr-auto text-[15px] max-[759px]:basis-full" role="status" data-testid="chosen">
        <strong>{plural(n, 'student')}</strong> {ticked ? 'chosen' : 'shown'}
        {lately > 0 && ` · ${lately} got a message from you in the last 7 days`}
        {hidden > 0 && ` · ${hidden} chosen ${hidden === 1 ? 'is' : 'are'} not shown now`}
        {(ticked || hidden > 0) && (
          <button type="button" className="ml-3 text-[14px] underline underline-offset-4" onClick={onUntick}>
            choose none
          </button>
        )}
      </p>
      <div className="flex flex-wrap gap-x-3 gap-y-2 max-[759px]:flex-row-reverse max-[759px]:flex-nowrap max-[759px]:justify-end max-[759px]:overflow-x-auto max-[759px]:whitespace-nowrap max-[759px]:*:flex-none">
        <ExportMenu look="dark" what={plural(n, 'student')} table={exported} disabled={n === 0} />
        <Button look="dark" disabled={n === 0} onClick={() => setAside(true)}>
          Set aside
        </Button>
        <Button look="dark" disabled={n === 0} onClick={() => pin()}>
          {pinned ? 'Unpin' : 'Pin'}
        </Button>
        <Button look="dark" busy={busy} disabled={noRule !== undefined} title={noRule} onClick={() => saveAsRule()}>
          Save as a rule
        </Button>
        <Button needs="nudges.decide" look="zest" disabled={n === 0} onClick={write}>
          {writeWords(n)}
        </Button>
      </div>
      {aside && <AsideDialog here={here} students={students} onClose={() => setAside(false)} />}
    </div>
  );
}

/** What was carried over and is still to be looked at: each rule, each text, the sender; until every line is done. */
import { useState, type ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { dateWords, listWords, plural } from '@zest-bell/core/time';
import { contract } from '@zest-bell/core/contract';
import type { BodyGiven } from '@zest-bell/core/contract';
import type { CarriedList, CarriedRuleLine, CarriedWordingLine } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { ownSetting, settingTitle, settingWords } from '../../lib/settingWords.ts';
import { carryProblemWords } from '../../lib/carryWords.ts';
import { offWords } from '../../lib/decisionWords.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Check } from '../../ui/fields.tsx';
import { Card } from './Card.tsx';

export function CarriedOver({ here }: { readonly here: CourseHere }) {
  const lists = useQuery({
    queryKey: ['carried', here.id],
    queryFn: () => ask(contract.carry.lists, { course: here.id }),
  });
  return (lists.data ?? []).map((list) => <Checklist key={list.id} here={here} list={list} />);
}

type Tick = BodyGiven<typeof contract.carry.tick>;

function Checklist({ here, list }: { readonly here: CourseHere; readonly list: CarriedList }) {
  const [undoing, setUndoing] = useState(false);
  const names = { course: here.id, carry: list.id };
  const lines = [...list.rules, ...list.wordings, ...list.settings, ...(list.sender ? [list.sender] : [])];
  const left = lines.filter((l) => !l.done).length;
  const change = (work: () => Promise<unknown>) => attempt(() => work().then(refreshAll));
  const tick = (body: Tick) => void change(() => ask(contract.carry.tick, names, { body }));
  return (
    <Card
      title={`Carried over from ${list.from.code}: ${plural(left, 'line')} left`}
      note="Nothing of it is sent until you turn a rule on. Look at each line, then check it off."
    >
      <ul>
        {list.rules.map((line) => (
          <RuleLine key={line.rule} here={here} line={line} tick={tick} />
        ))}
        {list.sender !== null && (
          <Line
            title="Sender and signature"
            done={list.sender.done}
            isFixed={list.sender.confirmed}
            act={{ words: 'Check the sender', to: `/c/${here.id}/course#sender` }}
            onDone={(done) => tick({ kind: 'sender', done })}
          />
        )}
        {list.settings.map(({ what, done }) => (
          <Line
            key={what}
            title={settingTitle(what)}
            done={done}
            act={{
              words: 'Look at it',
              to: what === 'groupWeights' ? `/c/${here.id}/course/items` : `/c/${here.id}/course`,
            }}
            onDone={(next) => tick({ kind: 'setting', name: what, done: next })}
          >
            Carried over. It is now: {settingWords(what, ownSetting(here.answer, what))}.
          </Line>
        ))}
        {list.wordings.map((line) => (
          <WordingLine key={line.wording} here={here} line={line} tick={tick} />
        ))}
      </ul>
      <p className="mt-3 flex flex-wrap gap-2">
        {!list.hasRung && (
          <Button needs="settings.write" onClick={() => setUndoing(true)}>
            Undo carrying over
          </Button>
        )}
        <Button
          look="quiet"
          onClick={() =>
            change(async () => {
              await ask(contract.carry.dismiss, names);
              toast('The list is closed.');
            })
          }
        >
          Close the list
        </Button>
      </p>
      {undoing && <UndoDialog here={here} list={list} onClose={() => setUndoing(false)} />}
    </Card>
  );
}

interface ChecklistAct {
  readonly words: string;
  readonly to: string;
}

function Line(props: {
  readonly title: string;
  readonly done: boolean;
  /** It is done by what happened, and no tick says so. */
  readonly isFixed?: boolean;
  readonly act: ChecklistAct;
  readonly onDone: (done: boolean) => void;
  readonly children?: ReactNode;
}) {
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-line py-2.5 last:border-b-0">
      <div className="min-w-0 flex-1 basis-72">
        <Check
          label={<strong>{props.title}</strong>}
          checked={props.done}
          disabled={props.isFixed ?? false}
          onChange={props.onDone}
        />
        <div className="pl-7 text-[14px] text-ink-2">{props.children}</div>
      </div>
      {!props.done && (
        <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={props.act.to}>
          {props.act.words}
        </Link>
      )}
    </li>
  );
}

function RuleLine({
  here,
  line,
  tick,
}: {
  readonly here: CourseHere;
  readonly line: CarriedRuleLine;
  readonly tick: (body: Tick) => void;
}) {
  const rule = `/c/${here.id}/rules/${encodeURIComponent(line.rule)}`;
  const act =
    line.lacks.length > 0
      ? { words: 'Open the rule', to: rule }
      : { words: 'Rehearse, then turn on', to: `${rule}?open=turnOn` };
  return (
    <Line
      title={line.name}
      done={line.done}
      isFixed={line.wasOn}
      act={act}
      onDone={(done) => tick({ kind: 'rule', name: line.rule, done })}
    >
      <Chip tone={line.status === 'on' ? 'zest' : 'quiet'}>
        {line.status === 'on' ? 'on' : offWords(line.status, line.wasOn)}
      </Chip>{' '}
      {line.dates
        .filter((d) => d.what === 'rhythm.start' || d.what === 'rhythm.until')
        .map((d) => dateChangeWords(d.what, d.from, d.to))
        .join(' ')}
      {line.items.some((i) => i.to !== null && i.to !== i.from) && (
        <span className="block">
          {line.items
            .filter((i) => i.to !== null && i.to !== i.from)
            .map((i) => `“${i.from}” is “${i.to}” here.`)
            .join(' ')}
        </span>
      )}
      {line.lacks.length > 0 && (
        <span className="block text-tangerine-text">
          ▲ {listWords(line.lacks)} {line.lacks.length === 1 ? 'has' : 'have'} no match in this course. Choose another
          before you turn it on.
        </span>
      )}
      {line.problems.map((p) => (
        <span key={p.path} className="block text-tangerine-text">
          ▲ {carryProblemWords(p)}
        </span>
      ))}
    </Line>
  );
}

function dateChangeWords(what: string, from: string, to: string | null): string {
  const day = (text: string) => dateWords(text.slice(0, 10));
  const which = what === 'rhythm.start' ? 'First day' : 'Last day';
  return to === null ? `${which} ${day(from)} was left out.` : `${which} ${day(from)} is now ${day(to)}.`;
}

function WordingLine({
  here,
  line,
  tick,
}: {
  readonly here: CourseHere;
  readonly line: CarriedWordingLine;
  readonly tick: (body: Tick) => void;
}) {
  return (
    <Line
      title={`Wording: ${line.name}`}
      done={line.done}
      act={{ words: 'Read the wording', to: `/c/${here.id}/wording?wording=${encodeURIComponent(line.wording)}` }}
      onDone={(done) => tick({ kind: 'wording', name: line.wording, done })}
    >
      {line.finds > 0 && `${plural(line.finds, 'place')} mentioned the old term.`}
      {line.lacksItem && (
        <span className="block text-tangerine-text">▲ It names an item that this course does not have.</span>
      )}
    </Line>
  );
}

function UndoDialog({
  here,
  list,
  onClose,
}: {
  readonly here: CourseHere;
  readonly list: CarriedList;
  readonly onClose: () => void;
}) {
  const [changedToo, setChangedToo] = useState(false);
  const [busy, setBusy] = useState(false);
  const undo = async () => {
    setBusy(true);
    await attempt(async () => {
      const { stays } = await ask(contract.carry.undo, { course: here.id, carry: list.id }, { body: { changedToo } });
      await refreshAll();
      toast(
        stays.length === 0
          ? `Everything from ${list.from.code} was removed.`
          : `Undone. These stay, because you changed or use them: ${stays.map((s) => s.name).join('; ')}.`,
      );
      onClose();
    });
    setBusy(false);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Undo carrying over from ${list.from.code}`}
      note="Its rules, wordings, items, limits and views leave this course again. Nothing of it was sent."
      foot={
        <Button look="main" busy={busy} onClick={() => undo()}>
          Undo carrying over
        </Button>
      }
    >
      <div className="px-6 py-4">
        <Check label="Remove what I changed since, too" checked={changedToo} onChange={setChangedToo} />
        <p className="text-[14px] text-ink-2">Otherwise rules and wordings that you changed or turned on stay here.</p>
      </div>
    </Dialog>
  );
}

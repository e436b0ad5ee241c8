/** The list of rules: each in its sentence, on or not, with its last round and its next one, in the order they decide. */
import { lazy, Suspense, useState } from 'react';
import { useSearchParams } from 'react-router';
import { plural } from '@zest-bell/core/time';
import { namesOfRule } from '@zest-bell/core/rules';
import type { RuleCard } from '@zest-bell/core/exchange';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { useRules } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { attempt } from '../../lib/attempt.ts';
import { setStatusWithUndo, restoreRule } from '../../lib/ruleActions.ts';
import { RuleList } from './RuleList.tsx';
import { DropdownMenu } from 'radix-ui';
import { contract } from '@zest-bell/core/contract';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { ask } from '../../lib/api.ts';
import { menuItem } from '../../ui/menu.ts';
import { saveBytes } from '../../ui/save.ts';
import { Explained } from '../../ui/Explained.tsx';

/** Only needed once somebody begins a rule or turns one on: kept out of the first load. */
const StartersDialog = lazy(async () => ({ default: (await import('./StartersDialog.tsx')).StartersDialog }));
const TurnOnManyDialog = lazy(async () => ({ default: (await import('./TurnOnManyDialog.tsx')).TurnOnManyDialog }));

/** With the wordings that they send; it is brought in where rules are carried over. */
async function exportRules(here: CourseHere, cards: readonly RuleCard[]): Promise<void> {
  const rules = cards.map((c) => c.rule.id);
  const { bytes, name } = await ask.download(contract.exports.rules, { course: here.id }, { body: { rules } });
  saveBytes(name, bytes);
}

export function RulesPage() {
  const here = useHere();
  const rules = useRules(here.id);
  const [asked, ask] = useSearchParams();
  const [beginning, setBeginning] = useState(false);
  const typed = asked.get('new');
  const closeNew = () => {
    setBeginning(false);
    if (typed === null) return;
    asked.delete('new');
    ask(asked, { replace: true });
  };
  const item = here.course.items[here.course.itemIndex.get(asked.get('item') ?? '') ?? -1];
  const [label, setLabel] = useState<string | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());

  if (rules.isPending)
    return (
      <PlacePage place="rules">
        <Loading what="the rules" />
      </PlacePage>
    );
  if (rules.isError)
    return (
      <PlacePage place="rules">
        <Failed error={rules.error} retry={() => void rules.refetch()} />
      </PlacePage>
    );
  const listed = rules.data.filter((c) => c.archivedAt === null);
  const archived = rules.data.filter((c) => c.archivedAt !== null);
  const labels = [...new Set(listed.map((c) => c.rule.label).filter(Boolean))].sort();
  const looksAt = (c: RuleCard) =>
    item === undefined ||
    namesOfRule(c.rule).some(
      ({ kind, name }) => (kind === 'item' && name === item.id) || (kind === 'group' && name === item.group),
    );
  const shown = listed.filter((c) => (label === null || c.rule.label === label) && looksAt(c));
  const chosen = shown.filter((c) => picked.has(c.rule.id));
  const on = listed.filter((c) => c.rule.status === 'on').length;
  const pick = (id: string, yes: boolean) => {
    const next = new Set(picked);
    if (yes) next.add(id);
    else next.delete(id);
    setPicked(next);
  };
  return (
    <PlacePage
      place="rules"
      scope={<EverywhereSwitch here={here} place="rules" />}
      lead={
        <>
          {plural(listed.length, 'rule')}, {on} on. Rules that <Explained word="check">check</Explained> at the same
          time decide in this order.
        </>
      }
      actions={
        <>
          <Button look="main" onClick={() => setBeginning(true)}>
            New rule
          </Button>
          {listed.length > 0 && (
            <ExportMenu
              what={chosen.length > 0 ? `${plural(chosen.length, 'rule')} chosen` : plural(listed.length, 'rule')}
            >
              <DropdownMenu.Item
                className={menuItem}
                onSelect={() => void attempt(() => exportRules(here, chosen.length > 0 ? chosen : listed))}
              >
                Rules and wordings, to bring in elsewhere
              </DropdownMenu.Item>
            </ExportMenu>
          )}
        </>
      }
      filters={
        labels.length > 1 || chosen.length > 0 ? (
          <>
            {labels.length > 1 && <Labels labels={labels} listed={listed} chosen={label} onChoose={setLabel} />}
            {chosen.length > 0 && <Several here={here} chosen={chosen} onDone={() => setPicked(new Set())} />}
          </>
        ) : undefined
      }
    >
      {item && (
        <p className="mb-3 flex flex-wrap items-center gap-x-3">
          <span>
            {shown.length === 0
              ? 'No rule looks'
              : `${plural(shown.length, 'rule')} ${shown.length === 1 ? 'looks' : 'look'}`}{' '}
            at <strong>{item.title}</strong>
            {item.group && ` or its group, ${item.group}`}.
          </span>
          <Button look="quiet" onClick={() => ask({}, { replace: true })}>
            Show all rules
          </Button>
        </p>
      )}
      {listed.length === 0 ? (
        <Empty title="No rules yet">
          A rule says whom to look for, when to look, and what to send. Start with “New rule” and choose a common one.
        </Empty>
      ) : (
        <RuleList here={here} cards={shown} all={listed} picked={picked} onPick={pick} />
      )}
      {archived.length > 0 && <Archive here={here} cards={archived} />}
      {(beginning || typed !== null) && (
        <Suspense>
          <StartersDialog key={typed} here={here} typed={typed ?? ''} onClose={closeNew} />
        </Suspense>
      )}
    </PlacePage>
  );
}

function Labels(props: {
  readonly labels: readonly string[];
  readonly listed: readonly RuleCard[];
  readonly chosen: string | null;
  readonly onChoose: (label: string | null) => void;
}) {
  const filter = (label: string | null, words: string, n: number) => (
    <Pill key={words} pressed={props.chosen === label} onClick={() => props.onChoose(label)}>
      {words} <span className="font-num text-[12.5px] font-normal">{n}</span>
    </Pill>
  );
  return (
    <div role="group" aria-label="Show rules with a label" className="flex flex-wrap gap-1.5">
      {filter(null, 'All', props.listed.length)}
      {props.labels.map((l) => filter(l, l, props.listed.filter((c) => c.rule.label === l).length))}
    </div>
  );
}

/** What can be done with several at once. */
function Several(props: {
  readonly here: CourseHere;
  readonly chosen: readonly RuleCard[];
  readonly onDone: () => void;
}) {
  const { here, chosen, onDone } = props;
  const [asking, setAsking] = useState(false);
  const off = chosen.filter((c) => c.rule.status !== 'on');
  const on = chosen.filter((c) => c.rule.status === 'on');
  const pause = async () => {
    if (await attempt(() => setStatusWithUndo(here, on, 'paused'))) onDone();
  };
  return (
    <div className="ml-auto flex flex-wrap items-center gap-2" role="group" aria-label="With the chosen rules">
      <span className="text-[14px] text-ink-2">{plural(chosen.length, 'rule')} chosen</span>
      <Button needs="rules.run" disabled={off.length === 0} onClick={() => setAsking(true)}>
        Turn on{off.length > 0 ? ` ${off.length}` : ''}
      </Button>
      <Button needs="rules.run" disabled={on.length === 0} onClick={() => pause()}>
        Pause{on.length > 0 ? ` ${on.length}` : ''}
      </Button>
      <Button look="quiet" onClick={onDone}>
        Choose none
      </Button>
      {asking && (
        <Suspense>
          <TurnOnManyDialog
            here={here}
            cards={off}
            onClose={() => setAsking(false)}
            onDone={() => {
              setAsking(false);
              onDone();
            }}
          />
        </Suspense>
      )}
    </div>
  );
}

function Archive({ here, cards }: { readonly here: CourseHere; readonly cards: readonly RuleCard[] }) {
  return (
    <details className="mt-6">
      <summary className="text-[15px] font-semibold text-ink-2">Archive: {plural(cards.length, 'rule')}</summary>
      <ul className="mt-2 grid gap-2">
        {cards.map((card) => (
          <li
            key={card.rule.id}
            className="flex flex-wrap items-center gap-x-4 gap-y-1 rounded-xl border border-line px-4 py-2.5"
          >
            <strong>{card.rule.name}</strong>
            <span className="min-w-0 flex-1 truncate text-[14px] text-ink-2">{card.sentence}</span>
            <Button needs="rules.run" look="quiet" onClick={() => attempt(() => restoreRule(here, card))}>
              Take out
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}

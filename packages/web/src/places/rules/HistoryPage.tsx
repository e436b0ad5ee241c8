/** What a rule did and what it was: every past round with its decisions, and every version, compared and brought back. */
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { dayWords, plural } from '@zest-bell/core/time';
import { evidenceWords } from '@zest-bell/core/conditions';
import { differences } from '@zest-bell/core/rules';
import type { PastRoundLine, RuleCard, RuleVersionAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { nameOf, useHere, type CourseHere } from '../../lib/here.ts';
import { useRules, useWordings } from '../../lib/queries.ts';
import { StateChip } from '../../parts/messages/StateChip.tsx';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { SelectField } from '../../ui/fields.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { Explained } from '../../ui/Explained.tsx';
import { When } from '../../ui/When.tsx';
import { DifferenceList } from './DifferenceList.tsx';
import { draftKey, useDrafts } from '../../parts/rule/draft.ts';
import { RuleSentence } from '../../parts/rule/RuleSentence.tsx';
import { roundWords, withdrawnWords, withheldWords } from '../../lib/decisionWords.ts';
import { Page } from '../../ui/Page.tsx';
import { PartTabs } from '../../ui/PageTabs.tsx';

type HistoryPart = 'rounds' | 'versions';
const PARTS = [
  { value: 'rounds', name: 'Past checks' },
  { value: 'versions', name: 'Versions' },
] as const;

export function HistoryPage() {
  const here = useHere();
  const id = useParams()['rule'];
  const rules = useRules(here.id);
  const [part, setPart] = useState<HistoryPart>('rounds');
  if (rules.isPending) return <Loading what="the rule" />;
  if (rules.isError) return <Failed error={rules.error} retry={() => void rules.refetch()} />;
  const card = rules.data.find((c) => c.rule.id === id);
  if (!card) return <Empty title="This rule does not exist" />;
  return (
    <Page
      title="Past checks and versions"
      lead={
        <>
          of{' '}
          <Link className="font-semibold text-pine hover:underline" to={`/c/${here.id}/rules/${card.rule.id}`}>
            {card.rule.name}
          </Link>
        </>
      }
      tabs={<PartTabs label="History" value={part} tabs={PARTS} onChange={setPart} />}
    >
      {part === 'rounds' ? <Rounds here={here} card={card} /> : <Versions here={here} card={card} />}
    </Page>
  );
}

const TRIGGERS = { regular: '', ring: 'by hand', late: 'late' } as const;

function Rounds({ here, card }: { readonly here: CourseHere; readonly card: RuleCard }) {
  const base = `/courses/${here.id}/rules/${card.rule.id}/rounds`;
  const rounds = useQuery({
    queryKey: ['rounds', base],
    queryFn: () => ask(contract.rules.rounds, { course: here.id, rule: card.rule.id }),
  });
  const [chosen, setChosen] = useState<number | null>(null);
  /** Groups of quiet rounds that are unfolded, by their first round. */
  const [opened, setOpened] = useState<ReadonlySet<number>>(new Set());
  if (rounds.isPending) return <Loading what="the checks" />;
  if (rounds.isError) return <Failed error={rounds.error} retry={() => void rounds.refetch()} />;
  if (rounds.data.length === 0) return <Empty title="This rule has not run yet">Its checks will appear here.</Empty>;
  const shown = chosen ?? rounds.data[0]!.id;
  return (
    <div className="mt-3 grid gap-5 min-[860px]:grid-cols-[minmax(0,1fr)_minmax(0,1.35fr)]">
      <ul className="max-h-[62vh] overflow-auto pr-1" aria-label="Past checks">
        {foldQuiet(rounds.data).map((group) =>
          group.length > 1 && !opened.has(group[0]!.id) ? (
            <li key={group[0]!.id}>
              <button
                type="button"
                onClick={() => setOpened(new Set([...opened, group[0]!.id]))}
                className="w-full rounded-xl px-4 py-2 text-left text-[14px] text-ink-2 hover:bg-sheet"
              >
                {plural(group.length, 'check')} nudged nobody,{' '}
                <When at={group.at(-1)!.at} zone={here.course.timeZone} words={dayWords} /> to{' '}
                <When at={group[0]!.at} zone={here.course.timeZone} words={dayWords} />
              </button>
            </li>
          ) : (
            group.map((r) => (
              <RoundLine key={r.id} here={here} round={r} shown={r.id === shown} onChoose={() => setChosen(r.id)} />
            ))
          ),
        )}
      </ul>
      <Round here={here} card={card} id={shown} />
    </div>
  );
}

/** Rounds that wrote about nobody, folded with their neighbors; every other round is alone. */
function foldQuiet(rounds: readonly PastRoundLine[]): PastRoundLine[][] {
  const groups: PastRoundLine[][] = [];
  const isQuiet = (r: PastRoundLine) => r.heard + r.held + r.withdrawn === 0 && r.trigger === 'regular';
  for (const round of rounds) {
    const last = groups.at(-1);
    if (last && isQuiet(last[0]!) && isQuiet(round)) last.push(round);
    else groups.push([round]);
  }
  return groups;
}

function RoundLine(props: {
  readonly here: CourseHere;
  readonly round: PastRoundLine;
  readonly shown: boolean;
  readonly onChoose: () => void;
}) {
  const { here, round: r } = props;
  return (
    <li>
      <button
        type="button"
        aria-pressed={props.shown}
        onClick={props.onChoose}
        className="w-full rounded-xl px-4 py-2 text-left hover:bg-sheet aria-pressed:bg-sheet"
      >
        <span className="flex items-center gap-3">
          <strong className="flex-1">
            <When at={r.at} zone={here.course.timeZone} />
          </strong>
          {r.trigger !== 'regular' && <Chip tone="quiet">{TRIGGERS[r.trigger]}</Chip>}
        </span>
        <span className="block text-[14px] text-ink-2">
          {roundWords(r)} · version {r.version}
          {r.missed.length > 0 && ` · made up for ${plural(r.missed.length, 'missed check')}`}
        </span>
      </button>
    </li>
  );
}

function Round({ here, card, id }: { readonly here: CourseHere; readonly card: RuleCard; readonly id: number }) {
  const round = useQuery({
    queryKey: ['round', here.id, card.rule.id, id],
    queryFn: () => ask(contract.rules.round, { course: here.id, rule: card.rule.id, round: id }),
  });
  if (round.isPending) return <Loading what="the check" />;
  if (round.isError) return <Failed error={round.error} retry={() => void round.refetch()} />;
  const { nudges, withheld } = round.data;
  const zone = here.course.timeZone;
  return (
    <section aria-label="The check" className="rounded-[16px] border border-line bg-sheet p-5">
      <h2 className="text-[18px] font-bold">
        <When at={round.data.round.at} zone={zone} />: {roundWords(round.data.round)}
      </h2>
      {nudges.length + withheld.length === 0 && (
        <p className="mt-3 text-ink-2">Nobody was due: no student matched, or no step was due yet.</p>
      )}
      <ul className="mt-2 max-h-[52vh] overflow-auto">
        {nudges.map((n) => (
          <li key={n.nudge} className="border-b border-line py-2 text-[14px]">
            <Link
              to={`/c/${here.id}/log?rule=${card.rule.id}&nudge=${n.nudge}`}
              className="flex items-center gap-3 underline-offset-4 hover:underline"
            >
              <strong className="min-w-0 flex-1 break-words">{nameOf(here, n.student)}</strong>
              {card.rule.steps.length > 1 && <span className="text-ink-3">step {n.step + 1}</span>}
              <StateChip state={n.state} />
            </Link>
            <span className="text-ink-2">
              {evidenceWords(n.evidence, zone)}
              {n.reason !== null && ` · canceled: ${withdrawnWords(n.reason, n.evidence)}`}
            </span>
          </li>
        ))}
        {withheld.map((w) => (
          <li key={w.student} className="border-b border-line py-2 text-[14px]">
            <span className="flex items-center gap-3">
              <strong className="min-w-0 flex-1 break-words">{nameOf(here, w.student)}</strong>
              <Chip tone="quiet">{withheldWords(w.reason)}</Chip>
            </span>
            <span className="text-ink-2">
              {evidenceWords(w.evidence, zone)}
              {w.rounds > 1 && (
                <>
                  {' '}
                  · in {w.rounds} checks <Explained word="eachTime">this time</Explained>
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Versions({ here, card }: { readonly here: CourseHere; readonly card: RuleCard }) {
  const versions = useQuery({
    queryKey: ['versions', here.id, card.rule.id],
    queryFn: () => ask(contract.rules.versions, { course: here.id, rule: card.rule.id }),
  });
  const wordings = useWordings(here.id);
  const [chosen, setChosen] = useState<number | null>(null);
  const [beside, setBeside] = useState<number | null>(null);
  const navigate = useNavigate();
  if (versions.isPending) return <Loading what="the versions" />;
  if (versions.isError) return <Failed error={versions.error} retry={() => void versions.refetch()} />;
  const all = versions.data;
  const at = (version: number | null) => all.find((v) => v.version === version);
  const shown = at(chosen) ?? all[0]!;
  const other = at(beside) ?? all[all.indexOf(shown) + 1] ?? null;
  const nameOfWording = (id: string) => wordings.data?.find((w) => w.id === id)?.name ?? id;
  const restore = () => {
    useDrafts.getState().edit(draftKey(here.id, card.rule.id), card, { ...shown.rule, status: card.rule.status });
    void navigate(`/c/${here.id}/rules/${card.rule.id}`);
  };
  return (
    <div className="mt-3 grid gap-5 min-[860px]:grid-cols-[minmax(0,1fr)_minmax(0,1.35fr)]">
      <ul className="max-h-[62vh] overflow-auto pr-1" aria-label="Versions">
        {all.map((v, i) => (
          <li key={v.version}>
            <button
              type="button"
              aria-pressed={v === shown}
              onClick={() => {
                setChosen(v.version);
                setBeside(null);
              }}
              className="w-full rounded-xl px-4 py-2 text-left hover:bg-sheet aria-pressed:bg-sheet"
            >
              <strong>Version {v.version}</strong>
              {v.carriedFrom && <span className="text-[13.5px] text-ink-2"> carried over from {v.carriedFrom}</span>}
              {i === 0 && <span className="text-ink-3"> · as it is now</span>}
              <span className="block text-[14px] text-ink-2">
                <When at={v.savedAt} zone={here.course.timeZone} /> by {v.by ?? 'the start of the course'}
                {all[i + 1] && ` · ${partWords(all[i + 1]!, v, here)}`}
              </span>
              {v.why !== null && <span className="block text-[14px] break-words">“{v.why}”</span>}
            </button>
          </li>
        ))}
      </ul>
      <section aria-label="The version" className="rounded-[16px] border border-line bg-sheet p-5">
        <div className="flex flex-wrap items-center gap-3">
          <h2 className="flex-1 text-[18px] font-bold">Version {shown.version}</h2>
          {shown !== all[0] && <Button onClick={restore}>Restore this version …</Button>}
        </div>
        <p className="mt-2 text-[15.5px] leading-[1.6]">
          <RuleSentence rule={shown.rule} course={here.course} marks="all" />
        </p>
        {other && (
          <div className="mt-4 grid gap-3 border-t border-line pt-4">
            <SelectField
              label="Compared with"
              className="justify-self-start"
              value={other.version}
              onChange={(e) => setBeside(Number(e.target.value))}
            >
              {all
                .filter((v) => v !== shown)
                .map((v) => (
                  <option key={v.version} value={v.version}>
                    version {v.version}
                  </option>
                ))}
            </SelectField>
            <DifferenceList all={differences(other.rule, shown.rule, here.course, nameOfWording)} />
          </div>
        )}
      </section>
    </div>
  );
}

/** "When it looks, Step 2" */
function partWords(before: RuleVersionAnswer, after: RuleVersionAnswer, here: CourseHere): string {
  const parts = differences(before.rule, after.rule, here.course).map((d) => d.part);
  return parts.length === 0 ? 'nothing changed' : parts.join(', ');
}

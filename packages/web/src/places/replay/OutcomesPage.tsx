/** What came of the nudges that were sent: by rule, step, wording or text, with how soon students came back. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router';
import { listWords, plural, numberWords } from '@zest-bell/core/time';
import { mailingOf } from '@zest-bell/core/nudges';
import { WITHHELD_WORDS, type WithheldReason } from '@zest-bell/core/rounds';
import { CAME_BY, medianOf, RISK_DAYS, type ReturnAct, type CameLine } from '@zest-bell/core/outcomes';
import type { CameOfItAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { outcomesTable } from '@zest-bell/core/exports';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { ChartCard } from '../../parts/charts/ChartCard.tsx';
import { TrialResultPart } from '../../parts/trials/TrialResultPart.tsx';
import { Explained } from '../../ui/Explained.tsx';
import { Segments } from '../../ui/Segments.tsx';
import { ShareBar } from '../../ui/ShareBar.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { ReplayTabPage } from './ReplayTabPage.tsx';
import { returnChart, type ReturnLine } from './returnChart.ts';

const BY_WORDS: Readonly<Record<ReturnAct, string>> = {
  rule: 'By rule',
  step: 'By step',
  wording: 'By wording',
  text: 'By text',
};
const COLUMN_OF: Readonly<Record<ReturnAct, string>> = { rule: 'Rule', step: 'Step', wording: 'Wording', text: 'Text' };
/** Lines that can be told apart in one chart. */
const MOST_LINES = 4;

const keyOf = (l: CameLine): string => JSON.stringify([l.rule, l.step, l.wording, l.text]);

export function OutcomesPage() {
  const here = useHere();
  const [params, setParams] = useSearchParams();
  const asked = CAME_BY.find((b) => b === params.get('by')) ?? 'rule';
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const came = useQuery({
    queryKey: ['outcomes of', here.id, here.answer.version, here.now, asked],
    queryFn: ({ signal }) => ask(contract.rounds.outcomes, { course: here.id }, { signal, query: { by: asked } }),
  });
  const trials = useQuery({
    ...atMoment(['trials', here.id], here.now),
    queryFn: ({ signal }) => ask(contract.rounds.trials, { course: here.id }, { signal }),
  });
  return (
    <ReplayTabPage
      here={here}
      tab="/outcomes"
      filters={
        <>
          <Segments
            label="Show results"
            value={asked}
            segments={CAME_BY.map((by) => ({ value: by, words: BY_WORDS[by] }))}
            onChange={(by) => {
              setChosen(null);
              setParams({ by }, { replace: true });
            }}
          />
        </>
      }
    >
      {came.isError ? (
        <Failed error={came.error} retry={() => void came.refetch()} />
      ) : !came.data ? (
        <Loading what="what came of it" />
      ) : came.data.lines.length === 0 ? (
        <Empty title="No nudges sent yet">
          When rules have sent nudges, you see here who came back, who replied, and how soon.
        </Empty>
      ) : (
        <Told here={here} came={came.data} by={asked} chosen={chosen} onChoose={setChosen} />
      )}
      {trials.data && trials.data.length > 0 && (
        <section aria-label="Fair trials" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
          <h2 className="text-[17px] font-bold">Fair trials</h2>
          <p className="text-[14px] text-ink-2">
            Each student’s text is chosen at random. Only this tells which text works better.
          </p>
          {trials.data.map(({ wording, name, trial }) => (
            <div key={trial.id} className="mt-3 border-t border-line pt-3">
              <h3 className="font-bold">
                <Link className="underline-offset-4 hover:underline" to={`/c/${here.id}/wording?wording=${wording}`}>
                  {name}
                </Link>
              </h3>
              <TrialResultPart trial={trial} zone={here.course.timeZone} />
            </div>
          ))}
        </section>
      )}
    </ReplayTabPage>
  );
}

/** The lines that are drawn until somebody chooses others: the first by its rule, all texts of the wording with several that was sent most. */
function firstChosen(lines: readonly CameLine[], by: ReturnAct): ReadonlySet<string> {
  const most = (some: readonly CameLine[]) => some.toSorted((a, b) => b.time.nudges - a.time.nudges)[0];
  const several = most(lines.filter((l) => (l.text ?? 0) > 0));
  const same = by === 'text' && several ? lines.filter((l) => l.wording === several.wording) : [most(lines)!];
  return new Set(same.slice(0, MOST_LINES).map(keyOf));
}

function Told(props: {
  readonly here: CourseHere;
  readonly came: CameOfItAnswer;
  readonly by: ReturnAct;
  readonly chosen: ReadonlySet<string> | null;
  readonly onChoose: (chosen: ReadonlySet<string>) => void;
}) {
  const { here, came, by } = props;
  const chosen = props.chosen ?? firstChosen(came.lines, by);
  const nameOf = (l: CameLine): string => lineName(l, came);
  const drawn = came.lines.filter((l) => chosen.has(keyOf(l)) && l.time.nudges > 0);
  const curves = drawn.flatMap((l): ReturnLine[] => {
    const own = { name: nameOf(l), curve: l.time.curve, atRisk: l.time.atRisk, compared: false };
    const beside = drawn.length === 1 && l.comparison && l.comparison.spells > 0 ? l.comparison : null;
    if (!beside) return [own];
    const { curve, atRisk } = beside;
    return [own, { name: 'First nudge held back', curve, atRisk, compared: true }];
  });
  const comparison = drawn.length === 1 ? drawn[0]!.comparison : null;
  const toggle = (l: CameLine) => {
    const next = new Set(chosen);
    if (!next.delete(keyOf(l))) next.add(keyOf(l));
    props.onChoose(next);
  };
  return (
    <>
      <section aria-label="Results" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
        <div className="flex justify-end">
          <ExportMenu
            what={plural(came.lines.length, 'line')}
            table={() =>
              outcomesTable(
                here.course,
                COLUMN_OF[by],
                came.lines.map((line) => ({ name: nameOf(line), line })),
              )
            }
          />
        </div>
        <div className="overflow-x-auto">
          <table className="w-full text-[14.5px]">
            <thead>
              <tr className="text-left text-[13px] text-ink-2">
                <th scope="col" className="py-1 pr-4 font-semibold">
                  <span className="sr-only">In the chart</span>
                </th>
                <th scope="col" className="py-1 pr-4 font-semibold">
                  {COLUMN_OF[by]}
                </th>
                <th scope="col" className="py-1 pr-4 text-right font-semibold">
                  Sent
                </th>
                <th scope="col" className="py-1 pr-4 font-semibold">
                  Came back within two weeks
                </th>
                <th scope="col" className="py-1 pr-4 font-semibold">
                  Replied
                </th>
                <th scope="col" className="py-1 text-right font-semibold">
                  Half came back within, days
                </th>
              </tr>
            </thead>
            <tbody>
              {came.lines.map((l) => (
                <Row
                  key={keyOf(l)}
                  line={l}
                  name={nameOf(l)}
                  drawn={chosen.has(keyOf(l)) && l.time.nudges > 0}
                  isFull={drawn.length >= MOST_LINES}
                  onToggle={() => toggle(l)}
                />
              ))}
            </tbody>
          </table>
        </div>
        <p className="mt-2 text-[13.5px] text-ink-2">
          {openWords(came)}The bar shows the likely range of the share (a 95% confidence interval).{' '}
          {by === 'text' || by === 'wording'
            ? 'Differences here may have other causes, unless a fair trial assigned the texts at random. Start one in Wording.'
            : 'These counts describe. They do not prove that the nudge was the cause.'}
        </p>
      </section>
      {curves.length > 0 && (
        <div>
          <ChartCard {...returnChart(curves)} fileName={`${here.course.code} time to return`} />
          <p className="mt-2 text-[13.5px] text-ink-2">
            The table counts nudges that are two weeks old. The chart counts those of the last two weeks too, and each
            only until the next nudge reaches the student, so its shares may differ from the table’s.
          </p>
          <StillCounted lines={curves} />
        </div>
      )}
      {comparison && comparison.spells > 0 && (
        <section
          aria-label="Matches without a nudge"
          className="rounded-[16px] border border-line bg-sheet px-5 py-4 text-[15px]"
        >
          <h2 className="text-[17px] font-bold">
            For comparison: {comparison.spells === 1 ? 'one time' : `${comparison.spells} times`} without a first nudge
          </h2>
          <p className="mt-1">
            <Explained word="eachTime">Each time</Explained>, a student matched the rule and a limit held the first
            nudge back:{' '}
            {listWords(
              Object.entries(comparison.reasons).map(
                ([reason, n]) => `${WITHHELD_WORDS[reason as WithheldReason]} (${plural(n, 'time')})`,
              ),
            )}
            .
          </p>
          <p className="mt-1 font-semibold">
            <span aria-hidden className="text-tangerine">
              ▲
            </span>{' '}
            This is not an experiment. These students differ from the others: for example, another rule may just have
            written to them.
          </p>
        </section>
      )}
    </>
  );
}

function lineName(l: CameLine, came: CameOfItAnswer): string {
  if (l.wording !== null) {
    const name = came.wordings[l.wording] ?? (mailingOf(l.wording) !== null ? 'Written by hand' : 'A removed wording');
    return l.text === null ? name : `${name}, text ${l.text + 1}`;
  }
  const rule = l.rule === null ? 'Written by hand' : (came.rules[l.rule] ?? l.rule);
  return l.step === null || l.rule === null ? rule : `${rule}, step ${l.step + 1}`;
}

function openWords({ lines }: CameOfItAnswer): string {
  const open = lines.reduce((n, l) => n + l.result.open, 0);
  return open === 0
    ? ''
    : `${plural(open, 'nudge')} of the last two weeks ${open === 1 ? 'is' : 'are'} not in these shares yet. `;
}

function Row(props: {
  readonly line: CameLine;
  readonly name: string;
  readonly drawn: boolean;
  /** Whether the chart takes no further line. */
  readonly isFull: boolean;
  readonly onToggle: () => void;
}) {
  const { line, name, drawn } = props;
  const { returns, replies, sent } = line.result;
  const half = medianOf(line.time.curve);
  return (
    <tr className="border-t border-line">
      <td className="py-1.5 pr-2 align-middle leading-none">
        <input
          type="checkbox"
          aria-label={`Show ${name} in the chart`}
          className="size-4 accent-[var(--pine)]"
          checked={drawn}
          disabled={line.time.nudges === 0 || (props.isFull && !drawn)}
          title={props.isFull && !drawn ? `The chart takes ${MOST_LINES} lines. Remove one first.` : undefined}
          onChange={props.onToggle}
        />
      </td>
      <th scope="row" className="max-w-72 truncate py-1.5 pr-4 text-left font-semibold" title={name}>
        {name}
      </th>
      <td className="py-1.5 pr-4 text-right tabular-nums">{numberWords(sent)}</td>
      <td className="py-1.5 pr-4 whitespace-nowrap">
        {returns ? (
          <ShareBar share={returns} figures />
        ) : (
          <span className="text-ink-3">{line.time.nudges > 0 ? 'too soon to say' : 'does not apply'}</span>
        )}
      </td>
      <td className="py-1.5 pr-4 whitespace-nowrap">
        <ShareBar share={replies} figures />
      </td>
      <td className="py-1.5 text-right whitespace-nowrap tabular-nums">
        {half !== null ? (
          half.toFixed(1)
        ) : (
          <span className="text-ink-3" title={line.time.nudges > 0 ? 'Not half so far' : 'Does not apply'}>
            –
          </span>
        )}
      </td>
    </tr>
  );
}

/** How few stand behind the end of a line. */
function StillCounted({ lines }: { readonly lines: readonly ReturnLine[] }) {
  return (
    <div
      tabIndex={0}
      role="region"
      aria-label="Not back yet, and still counted"
      className="mt-2 overflow-x-auto rounded-[16px] border border-line bg-sheet px-5 py-2.5"
    >
      <table className="w-full text-[13.5px]">
        <caption className="pb-1 text-left font-semibold">Not back yet, and still counted, on day</caption>
        <thead>
          <tr className="text-ink-2">
            <th scope="col">
              <span className="sr-only">Line</span>
            </th>
            {RISK_DAYS.map((day) => (
              <th key={day} scope="col" className="px-2 text-right tabular-nums font-normal">
                {day}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((l) => (
            <tr key={l.name}>
              <th scope="row" className="max-w-64 truncate pr-4 text-left font-normal">
                {l.name}
              </th>
              {l.atRisk.map((n, i) => (
                <td key={RISK_DAYS[i]} className="px-2 text-right tabular-nums">
                  {n}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

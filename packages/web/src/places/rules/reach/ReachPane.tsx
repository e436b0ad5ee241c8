/** Beside the sentence at all times: how many match, on whom the threshold falls, who would hear, who is withheld and why. */
import { dayWords, nextRound, plural, numberWords } from '@zest-bell/core/time';
import { CATALOGUE } from '@zest-bell/core/measures';
import type { Leaf } from '@zest-bell/core/conditions';
import { tellsOthersOnly, type Rule } from '@zest-bell/core/rules';
import type { Reach } from '@zest-bell/core/rounds';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { nudgeInTheWayWords, useRuleNames } from '../../../lib/nudgeInTheWay.ts';
import { nameOf, type CourseHere } from '../../../lib/here.ts';
import { Button } from '../../../ui/Button.tsx';
import { Figures } from '../../../ui/Figures.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import { NOT_DUE, VerdictRow, verdictOf } from '../../../parts/reach/VerdictRow.tsx';
import { Failed, Loading } from '../../../parts/common/States.tsx';
import { When } from '../../../ui/When.tsx';
import { useSettled } from '../../../ui/useSettled.ts';
import { pastOf } from '../../../lib/ruleActions.ts';
import { samePath, type Path } from '../../../parts/conditions/tree.ts';
import { BeforeTheTerm, isBeforeTheTerm } from './BeforeTheTerm.tsx';
import { ThresholdHint } from './ThresholdHint.tsx';
import { DotPlot } from '../../../parts/reach/DotPlot.tsx';
import type { LiveReach } from './useReach.ts';

export interface ReachPaneProps {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly live: LiveReach;
  readonly leaves: readonly { readonly leaf: Leaf; readonly path: Path }[];
  /** The condition of the dots. */
  readonly chosen: Path;
  readonly onChoose: (path: Path) => void;
  readonly onThreshold: (path: Path, value: number) => void;
  readonly onInstead: (path: Path, leaf: Leaf) => void;
  /** What is said of a condition, by its path. */
  readonly remarks: ReadonlyMap<string, string>;
  /** Whether everyone is listed, or the first of them. */
  readonly all: boolean;
  readonly onAll: (all: boolean) => void;
}

export function ReachPane(props: ReachPaneProps) {
  const { here, rule, live } = props;
  if (live.error) return <Failed error={live.error} />;
  if (!live.result) return <Loading what="who matches" />;
  if (!live.result.ok) {
    return (
      <div className="p-6" role="alert">
        <h2 className="text-lg font-bold">This rule cannot run yet</h2>
        <ul className="mt-3 grid gap-2">
          {live.result.problems.map((p, i) => (
            <li key={i} className="flex gap-2">
              <span aria-hidden className="text-tangerine">
                ▲
              </span>
              <span>
                {p.message} <span className="font-num text-[12.5px] text-ink-3">{p.path}</span>
              </span>
            </li>
          ))}
        </ul>
      </div>
    );
  }
  if (isBeforeTheTerm(here)) return <BeforeTheTerm here={here} rule={rule} />;
  const { reach } = live.result;
  const next = nextRound(rule.rhythm, here.course.calendar, here.now);
  return (
    // The plot may be drawn once before its width is known.
    <div className="overflow-x-clip px-6 py-6">
      <Headline here={here} rule={rule} reach={reach} current={live.current} next={next} />
      <Unheard {...props} reach={reach} />
      <Plot {...props} reach={reach} />
      <div className="mt-5 flex items-baseline justify-between border-b border-line pb-1.5 text-[13.5px] text-ink-3">
        <h2 className="font-body font-normal">Who, and why</h2>
        {next === null && <span>No checks left</span>}
      </div>
      <Who {...props} reach={reach} />
      <PastLine here={here} rule={rule} />
    </div>
  );
}

function Headline(props: {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly reach: Reach;
  readonly current: boolean;
  /** The round that is decided; null where none is left. */
  readonly next: number | null;
}) {
  const { here, rule, reach, next } = props;
  const { sent: heard, held, withheld, waiting, sentByStep } = reach.counts;
  const stepWords = sentByStep.flatMap((n, i) => (n > 0 ? [`${n} step ${i + 1}`] : []));
  const rest = [
    rule.steps.length > 1 && heard > 0 ? stepWords.join(', ') : '',
    held > 0 ? `${held} would wait for you` : '',
    withheld > 0 ? `${withheld} held back` : '',
    waiting > 0 ? `${waiting} not due yet` : '',
    reach.matching > 0
      ? ''
      : reach.everMatched === 0
        ? 'no student has matched at any time this term'
        : `${plural(reach.everMatched, 'student')} matched at some time this term`,
  ].filter(Boolean);
  return (
    <div role="status" aria-busy={!props.current} data-testid="reach">
      <Figures
        figures={[
          {
            n: reach.matching,
            words: `of ${reach.audience} ${reach.matching === 1 ? 'matches' : 'match'} now`,
            testId: 'matching',
          },
          {
            n: heard,
            testId: 'heard',
            words: (
              <>
                {tellsOthersOnly(rule) ? (heard === 1 ? 'alert to others' : 'alerts to others') : 'would be nudged'}
                {next !== null && (
                  <>
                    {' '}
                    <When at={next} zone={here.course.timeZone} />
                  </>
                )}
              </>
            ),
          },
        ]}
      />
      {rest.length > 0 && <p className="mt-1.5 text-[14px] text-ink-2">{rest.join(' · ')}</p>}
    </div>
  );
}

/** Warns that a condition on completions matches everyone because none have come in, and offers a condition that has data. */
function Unheard({ reach, leaves, onInstead }: ReachPaneProps & { readonly reach: Reach }) {
  return reach.unheard.map(({ leaf, message, instead }) => {
    const place = leaves[leaf];
    return (
      <div key={leaf} role="note" className="mt-4 rounded-xl bg-tangerine-soft px-4 py-2.5 text-[14.5px]">
        <p>▲ {message}</p>
        {instead && place && (
          <Button className="mt-2" onClick={() => onInstead(place.path, instead.leaf)}>
            Ask who “{instead.words}” instead
          </Button>
        )}
      </div>
    );
  });
}

function Plot({
  here,
  leaves,
  chosen,
  onChoose,
  onThreshold,
  remarks,
  reach,
}: ReachPaneProps & { readonly reach: Reach }) {
  const found = leaves.findIndex((l) => samePath(l.path, chosen));
  const index = found < 0 ? 0 : found;
  const shown = leaves[index];
  const dots = reach.dots[index];
  if (!shown || !dots) return null;
  const measure = CATALOGUE[shown.leaf.measure];
  return (
    <section aria-label="Distribution in this class" className="mt-4">
      {leaves.length > 1 && (
        <Segments
          label="Condition to show"
          value={index}
          segments={leaves.map(({ leaf }, i) => ({
            value: i,
            words: CATALOGUE[leaf.measure].label(leaf, here.course),
          }))}
          onChange={(i) => onChoose(leaves[i]!.path)}
        />
      )}
      {measure.unit === 'yesNo' || measure.unit === 'text' ? (
        <Bars label={measure.label(shown.leaf, here.course)} dots={dots} />
      ) : (
        <>
          <DotPlot here={here} leaf={shown.leaf} dots={dots} onThreshold={(v) => onThreshold(shown.path, v)} />
          <ThresholdHint here={here} leaf={shown.leaf} />
        </>
      )}
      {remarks.has(shown.path.join('.')) && !reach.unheard.some((u) => u.leaf === index) && (
        <p className="mt-1.5 text-[13.5px] text-tangerine-text">▲ {remarks.get(shown.path.join('.'))}</p>
      )}
    </section>
  );
}

/** Yes and no, or the values of a column: how many students have each. */
function Bars({ label, dots }: { readonly label: string; readonly dots: Reach['dots'][number] }) {
  const counts = new Map<string, number>();
  for (const d of dots) {
    const words =
      d.value === null ? 'not known' : d.value === true ? 'yes' : d.value === false ? 'no' : String(d.value);
    counts.set(words, (counts.get(words) ?? 0) + 1);
  }
  const rows = [...counts]
    .map(([words, n]) => ({ words, n }))
    .sort((a, b) => b.n - a.n || a.words.localeCompare(b.words));
  return (
    <div className="mt-4">
      <p className="mb-2 text-[13px] text-ink-2">{label}</p>
      <dl className="grid grid-cols-[minmax(80px,auto)_1fr_40px] items-center gap-x-3 gap-y-1.5">
        {rows.slice(0, 12).map((r) => (
          <div key={r.words} className="contents">
            <dt>{r.words}</dt>
            <dd className="h-4 rounded bg-fog">
              <span
                className="block h-full rounded bg-pine"
                style={{ width: `${(100 * r.n) / Math.max(1, dots.length)}%` }}
              />
            </dd>
            <dd className="font-num">{numberWords(r.n)}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

/** More names than anyone reads at once are folded away. */
export const FIRST = 60;

function Who({ here, rule, reach, all, onAll }: ReachPaneProps & { readonly reach: Reach }) {
  const names = useRuleNames(here);
  const zone = here.course.timeZone;
  const matching = new Set(reach.dots[0]?.flatMap((d) => (d.meets === 'all' ? [d.student] : [])));
  const { sent, held, withheld, withdrawn, waiting } = reach.counts;
  const everyone = sent + held + withheld + withdrawn + waiting;
  if (everyone === 0) {
    return (
      <p className="py-6 text-ink-2">
        {reach.matching === 0
          ? 'No student matches right now. Drag the threshold to see whom it would reach.'
          : 'None of them would still match at the next check.'}
      </p>
    );
  }
  const rows = [
    ...reach.decisions.map((d) => ({
      ...d,
      verdict: verdictOf(
        d,
        nudgeInTheWayWords(reach.takenBy[d.student], names, zone),
        rule.steps.length > 1 ? d.step + 1 : null,
      ),
    })),
    ...reach.waiting.map((w) => ({ ...w, verdict: NOT_DUE })),
  ];
  return (
    <ul>
      {rows.map(({ student, evidence, verdict }) => (
        <li
          key={student}
          className="border-b border-line py-1.5 [contain-intrinsic-size:auto_52px] [content-visibility:auto]"
        >
          <VerdictRow
            name={nameOf(here, student)}
            verdict={verdict}
            evidence={evidence}
            zone={zone}
            // What is known right now: of those who match only by the next check it is no reason yet.
            before={matching.has(student) ? '' : 'does not match yet: '}
          />
        </li>
      ))}
      {everyone > FIRST && (
        <li className="py-3">
          <Button look="quiet" onClick={() => onAll(!all)}>
            {all ? `Show the first ${FIRST}` : `Show ${everyone - FIRST} more`}
          </Button>
        </li>
      )}
    </ul>
  );
}

/** What the rule alone would have done so far: computed once edits pause, as it is a replay of the term. */
function PastLine({ here, rule }: { readonly here: CourseHere; readonly rule: Rule }) {
  const settled = useSettled(rule, 600);
  const past = useQuery({
    queryKey: ['past', here.id, JSON.stringify(settled), here.now],
    queryFn: ({ signal }) => pastOf(here, settled, signal),
    placeholderData: keepPreviousData,
  });
  if (!past.data || past.data.rounds === 0) return null;
  const { from, nudges, students, busiest } = past.data;
  return (
    <p className="border-b border-line py-2.5 text-[14px] text-ink-2">
      If this version had been on since <When at={from} zone={here.course.timeZone} words={dayWords} />, without other
      rules:{' '}
      <strong className="text-ink">
        {tellsOthersOnly(rule)
          ? `${plural(nudges, 'alert')} about ${plural(students, 'student')}`
          : `${plural(nudges, 'nudge')} to ${plural(students, 'student')}`}
      </strong>
      {nudges > 0 && `, ${busiest} on the busiest day`}.
    </p>
  );
}

/** Two terms side by side: rules of one origin, what came of each, and what differed. Printed, or kept as a file. */
import type { ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router';
import { dateWords, dayWords, plural } from '@zest-bell/core/time';
import { termsTable } from '@zest-bell/core/exports';
import type { ComparedTerm, TermsAnswer } from '@zest-bell/core/exchange';
import {
  chanceWords,
  firstWeekWords,
  sentWords,
  SHARE_WORDS,
  type ReportedRule,
  type RulePair,
  type TermDifference,
} from '@zest-bell/core/terms';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { atMoment } from '../../lib/atMoment.ts';
import { attempt } from '../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { Button } from '../../ui/Button.tsx';
import { SelectField } from '../../ui/fields.tsx';
import { saveBytes } from '../../ui/save.ts';
import { ShareBar } from '../../ui/ShareBar.tsx';
import { ReplayTabPage } from './ReplayTabPage.tsx';

const CARD = 'rounded-[16px] border border-line bg-sheet px-5 py-4';

export function ComparePage() {
  const here = useHere();
  const [search, setSearch] = useSearchParams();
  const others = useQuery({
    queryKey: ['otherTerms', here.id],
    queryFn: () => ask(contract.term.others, { course: here.id }),
  });
  const chosen = Number(search.get('with')) || others.data?.[0]?.id || null;
  const body = { outcome: here.answer.worry, other: chosen ?? 0 };
  const compared = useQuery({
    ...atMoment(['termsCompared', here.id, chosen, here.answer.version], here.now),
    queryFn: ({ signal }) => ask(contract.term.compare, { course: here.id }, { body, signal }),
    enabled: chosen !== null,
  });
  const answer = compared.data;
  const takePdf = () =>
    attempt(async () => {
      const { bytes, name } = await ask.download(contract.term.comparePdf, { course: here.id }, { body });
      saveBytes(name, bytes);
    });
  return (
    <ReplayTabPage
      here={here}
      tab="/term"
      actions={
        answer && (
          <>
            <Button onClick={() => window.print()}>Print</Button>
            <Button onClick={() => takePdf()}>Save as PDF</Button>
            <ExportMenu
              what={plural(answer.pairs.length + answer.alone.here.length + answer.alone.other.length, 'rule')}
              table={() => termsTable(here.course.timeZone, answer)}
            />
          </>
        )
      }
    >
      <header>
        <h2 className="text-[20px] leading-tight font-bold">Two terms side by side</h2>
        <p className="text-ink-2">
          Rules that come from one another, by carrying over, by being shared, or from the shelf.{' '}
          <Link className="font-semibold text-pine underline print:hidden" to={`/c/${here.id}/replay/term`}>
            Back to this term
          </Link>
        </p>
      </header>
      {others.isError ? (
        <Failed error={others.error} retry={() => void others.refetch()} />
      ) : others.isPending ? (
        <Loading what="your other courses" />
      ) : others.data.length === 0 ? (
        <Empty title="No other course to compare with">
          Another course of yours, such as this one in an earlier term, can stand beside this one here.
        </Empty>
      ) : (
        <>
          <div className="max-w-[560px] print:hidden">
            <SelectField
              label={`Compare ${here.course.code} with`}
              value={chosen ?? ''}
              onChange={(e) => setSearch({ with: e.target.value }, { replace: true })}
            >
              {others.data.map((o) => (
                <option key={o.id} value={o.id}>
                  {o.code} {o.title}, {dateWords(o.start)} to {dateWords(o.end)}
                  {o.isCarried ? ' (carried over)' : ''}
                </option>
              ))}
            </SelectField>
          </div>
          {compared.isError ? (
            <Failed error={compared.error} retry={() => void compared.refetch()} />
          ) : answer ? (
            <SideBySide here={here} answer={answer} />
          ) : (
            <Loading what="both terms, rule by rule" />
          )}
        </>
      )}
    </ReplayTabPage>
  );
}

function SideBySide({ here, answer }: { readonly here: CourseHere; readonly answer: TermsAnswer }) {
  const { pairs, alone, limits, here: own, other } = answer;
  return (
    <>
      <div className="grid gap-4 min-[760px]:grid-cols-2">
        {[own, other].map((term) => (
          <Term key={term.id} term={term} zone={here.course.timeZone} />
        ))}
      </div>
      {answer.ownOutcome && (
        <p role="note" className="rounded-xl bg-brass-soft px-4 py-2.5 text-[14.5px]">
          {other.code} has nothing like the outcome of {own.code}, so its own stands in. Do not compare who was found.
        </p>
      )}
      {limits.length > 0 && (
        <section aria-label="Limits that differed" className={CARD}>
          <h2 className="text-[18px] font-bold">Limits that differed</h2>
          <Differences own={own} other={other} all={limits} />
        </section>
      )}
      <section aria-label="Rules of both terms" className={CARD}>
        <h2 className="text-[18px] font-bold">Rules of both terms</h2>
        {pairs.length === 0 ? (
          <p className="text-ink-2">No rule of one of them comes from the other.</p>
        ) : (
          pairs.map((pair) => <Pair key={pair.here.rule} own={own} other={other} pair={pair} />)
        )}
        <p className="mt-2 text-[13.5px] text-ink-2">
          These are counts of two classes. They do not prove a cause: the students, the term, and much else differed.
        </p>
      </section>
      <div className="grid gap-4 min-[760px]:grid-cols-2">
        <Alone term={own} rules={alone.here} />
        <Alone term={other} rules={alone.other} />
      </div>
    </>
  );
}

function Term({ term: t, zone }: { readonly term: ComparedTerm; readonly zone: string }) {
  return (
    <section aria-label={t.code} className={CARD}>
      <h2 className="text-[18px] font-bold">
        {t.code} {t.title}
      </h2>
      <p className="text-[14px] text-ink-2">
        {dateWords(t.start)} to {dateWords(t.end)}, as of {dayWords(t.at, zone)}
      </p>
      <p className="mt-1">
        {t.known === 0
          ? `Of no student is it known yet whether they ${t.outcome}.`
          : `${t.worried} of ${plural(t.known, 'student')} ${t.outcome}.`}{' '}
        {t.worried > 0 &&
          (t.missedByAll === 0 ? 'A rule found every one of them.' : `No rule found ${t.missedByAll} of them.`)}
      </p>
    </section>
  );
}

interface PairProps {
  readonly own: ComparedTerm;
  readonly other: ComparedTerm;
  readonly pair: RulePair;
}

function Pair({ own, other, pair }: PairProps) {
  const sides = [
    { term: own, rule: pair.here, side: 'here' },
    { term: other, rule: pair.other, side: 'other' },
  ] as const;
  return (
    <article aria-label={pair.here.name} className="border-b border-line py-3 last:border-b-0">
      <h3 className="text-[16px] font-bold">{pair.here.name}</h3>
      <div className="overflow-x-auto">
        <table className="mt-1 w-full text-[14.5px]">
          <thead>
            <tr className="text-left text-[13px] text-ink-2">
              <th scope="col" className="py-1 pr-4 font-semibold">
                Term
              </th>
              <th scope="col" className="py-1 pr-4 font-semibold">
                Sent
              </th>
              <th scope="col" className="py-1 pr-4 font-semibold">
                First reached
              </th>
              {pair.shares.map((s) => (
                <th key={s.what} scope="col" className="py-1 pr-4 font-semibold">
                  {SHARE_WORDS[s.what].replace(/^./, (c) => c.toUpperCase())}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sides.map(({ term, rule, side }) => (
              <tr key={term.id} className="border-t border-line">
                <th scope="row" className="py-1.5 pr-4 text-left font-semibold whitespace-nowrap">
                  <Link className="hover:underline" to={`/c/${term.id}/rules/${rule.rule}`} title={rule.name}>
                    {term.code}
                  </Link>
                </th>
                <td className="py-1.5 pr-4">{sentWords(rule)}</td>
                <td className="py-1.5 pr-4 whitespace-nowrap">{firstWeekWords(rule)}</td>
                {pair.shares.map((s) => (
                  <td key={s.what} className="py-1.5 pr-4 whitespace-nowrap">
                    <ShareBar share={s[side]} figures />
                  </td>
                ))}
              </tr>
            ))}
            {pair.shares.length > 0 && (
              <tr className="text-[13.5px] text-ink-2">
                <td colSpan={3} />
                {pair.shares.map((s) => (
                  <td key={s.what} className="pr-4 pb-1">
                    {chanceWords(s)}
                  </td>
                ))}
              </tr>
            )}
          </tbody>
        </table>
      </div>
      {pair.differences.length === 0 ? (
        <p className="text-[14px] text-ink-2">The rule is the same in both.</p>
      ) : (
        <Differences own={own} other={other} all={pair.differences} />
      )}
    </article>
  );
}

const Differences = (props: {
  readonly own: ComparedTerm;
  readonly other: ComparedTerm;
  readonly all: readonly TermDifference[];
}): ReactNode => (
  <ul className="mt-1 grid gap-0.5 text-[14px]">
    {props.all.map((d) => (
      <li key={d.part}>
        <strong className="font-semibold">{d.part}:</strong> {d.here} in {props.own.code}, {d.other} in{' '}
        {props.other.code}
      </li>
    ))}
  </ul>
);

function Alone({ term, rules }: { readonly term: ComparedTerm; readonly rules: readonly ReportedRule[] }) {
  if (rules.length === 0) return null;
  return (
    <section aria-label={`Only in ${term.code}`} className={CARD}>
      <h2 className="text-[18px] font-bold">Only in {term.code}</h2>
      <ul>
        {rules.map((r) => (
          <li key={r.rule ?? 'by hand'} className="border-b border-line py-2 last:border-b-0">
            <strong className="font-semibold">{r.name}</strong>
            <span className="block text-[14px] text-ink-2">
              {sentWords(r)}
              {r.firstDay !== null && `, first in ${firstWeekWords(r)}`}
            </span>
            {r.result.returns && r.result.returns.of > 0 && (
              <span className="flex flex-wrap items-center gap-x-2 text-[14px]">
                Came back <ShareBar share={r.result.returns} figures />
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

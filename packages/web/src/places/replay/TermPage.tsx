/** What became of the term, on one page: what to change, whom rules found, and what came of each. Printed, or kept as a file. */
import { useState } from 'react';
import { Link } from 'react-router';
import { dateWords, dayWords, plural } from '@zest-bell/core/time';
import type { Condition } from '@zest-bell/core/conditions';
import { termTable } from '@zest-bell/core/exports';
import { shareWords, type Proportion } from '@zest-bell/core/outcomes';
import { NO_VIEW } from '@zest-bell/core/lookout';
import { WITHHELD_WORDS } from '@zest-bell/core/rounds';
import type { TermReport } from '@zest-bell/core/term';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { useLongWork } from '../../lib/useLongWork.ts';
import { Progress } from '../../parts/common/Progress.tsx';
import { Empty, Failed } from '../../parts/common/States.tsx';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { FilterSentence } from '../../parts/table/FilterSentence.tsx';
import { Button, LinkButton } from '../../ui/Button.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { saveBytes } from '../../ui/save.ts';
import { ShareBar } from '../../ui/ShareBar.tsx';
import { ReplayTabPage } from './ReplayTabPage.tsx';

const CARD = 'rounded-[16px] border border-line bg-sheet px-5 py-4';

export function TermPage() {
  const here = useHere();
  const [outcome, setOutcome] = useState<Condition>(here.answer.worry);
  const answer = useLongWork(
    ['term report', here.id, here.answer.version, here.now],
    contract.term.report,
    { course: here.id },
    { outcome },
    true,
  );
  const report = answer.data;
  return (
    <ReplayTabPage
      here={here}
      tab="/term"
      actions={
        report && (
          <>
            <Button onClick={() => window.print()}>Print</Button>
            <Button onClick={() => attempt(() => takePdf(here, outcome))}>Save as PDF</Button>
            <ExportMenu what={plural(report.rules.length, 'rule')} table={() => termTable(here.course, report)} />
          </>
        )
      }
    >
      <header>
        <p className="float-right print:hidden">
          <LinkButton to={`/c/${here.id}/replay/terms`}>Compare with another term …</LinkButton>
        </p>
        <h2 className="text-[20px] leading-tight font-bold">How the term went</h2>
        <p className="text-ink-2">
          {here.course.code} {here.course.title}, {dateWords(here.course.start)} to {dateWords(here.course.end)}
          {report && `, as of ${dayWords(report.at, here.course.timeZone)}`}.
        </p>
      </header>
      <div className={`${CARD} print:hidden`}>
        <p className="text-[13px] font-semibold text-ink-2">Compare rules with</p>
        <FilterSentence
          here={here}
          view={{ ...NO_VIEW, when: outcome }}
          onChange={(part) => setOutcome(part.when ?? here.answer.worry)}
        />
      </div>
      <Progress work={answer} what="how the term went" />
      {answer.error ? (
        <Failed error={answer.error} retry={answer.again} />
      ) : !report ? null : report.rules.length === 0 ? (
        <Empty title="No rules yet">Once rules have run in this course, this page says what they did.</Empty>
      ) : (
        <Told here={here} report={report} />
      )}
    </ReplayTabPage>
  );
}

async function takePdf(here: CourseHere, outcome: Condition): Promise<void> {
  const { bytes, name } = await ask.download(contract.term.pdf, { course: here.id }, { body: { outcome } });
  saveBytes(name, bytes);
}

function Told({ here, report }: { readonly here: CourseHere; readonly report: TermReport }) {
  return (
    <>
      <section aria-label="What to change" className={CARD}>
        <h2 className="text-[18px] font-bold">What to change</h2>
        {report.changes.length === 0 ? (
          <p className="text-ink-2">Too little has happened yet to say what to change.</p>
        ) : (
          <ol className="ml-5 list-decimal">
            {report.changes.map((words) => (
              <li key={words} className="py-1 text-[16px]">
                {words}
              </li>
            ))}
          </ol>
        )}
        <p className="mt-1 text-[13.5px] text-ink-2">
          These are counts of this term. They do not prove a cause, and the next class may differ.
        </p>
      </section>
      <section aria-label="Rule by rule" className={CARD}>
        <h2 className="text-[18px] font-bold">Rule by rule</h2>
        <p className="text-[14px] text-ink-2">
          {report.worried} of {plural(report.known, 'student')} have the outcome above.{' '}
          {report.missedByAll === 0
            ? 'Every one of them was found by a rule.'
            : `No rule found ${report.missedByAll} of them.`}
          {report.students > report.known &&
            ` It is not known for ${plural(report.students - report.known, 'student')}.`}
        </p>
        <PlainTable
          label="What each rule did"
          columns={[
            { name: 'Rule' },
            { name: 'Sent', right: true },
            { name: 'Reached', right: true },
            { name: 'Came back' },
            { name: 'Replied' },
            { name: 'Held back' },
            { name: 'Found, of those you worry about' },
            { name: 'Found, but did fine', right: true },
          ]}
          rows={report.rules.map((r) => ({
            key: r.rule ?? 'by hand',
            head: r.rule === null ? r.name : <RuleLink here={here} rule={r.rule} name={r.name} />,
            cells: cellsOf(r),
          }))}
        />
      </section>
      {report.texts.length > 0 && <Texts texts={report.texts} />}
    </>
  );
}

const RuleLink = (props: { readonly here: CourseHere; readonly rule: string; readonly name: string }) => (
  <Link className="hover:underline" to={`/c/${props.here.id}/rules/${props.rule}`} title={props.name}>
    {props.name}
  </Link>
);

function cellsOf({ result, reached, heldBack, hindsight }: TermReport['rules'][number]) {
  const counts = hindsight?.counts;
  const [worst] = heldBack;
  return [
    String(result.sent),
    String(reached),
    result.returns ? <Share key="returns" share={result.returns} /> : <Nothing key="returns" />,
    result.replies.of > 0 ? <Share key="replies" share={result.replies} /> : <Nothing key="replies" />,
    worst ? (
      <span key="held" title={heldBack.map((h) => `${h.students}: ${WITHHELD_WORDS[h.reason]}`).join('; ')}>
        {plural(worst.students, 'student')}: {WITHHELD_WORDS[worst.reason]}
        {worst.neverNudged > 0 && (
          <span className="block text-[13px] text-ink-2">{worst.neverNudged} never nudged</span>
        )}
      </span>
    ) : (
      <Nothing key="held" />
    ),
    counts ? `${counts.found} of ${counts.found + counts.missed}` : <Nothing key="found" />,
    counts ? String(counts.needless) : <Nothing key="needless" />,
  ];
}

const Share = ({ share }: { readonly share: Proportion }) => (
  <span className="whitespace-nowrap">
    <ShareBar share={share} />
  </span>
);

const Nothing = () => <span className="text-ink-3">–</span>;

function Texts({ texts }: Pick<TermReport, 'texts'>) {
  return (
    <section aria-label="Texts compared" className={CARD}>
      <h2 className="text-[18px] font-bold">Texts compared</h2>
      <ul className="text-[14.5px]">
        {texts.map(({ wording, texts: own, better }) => (
          <li key={wording} className="border-b border-line py-2 last:border-b-0">
            <strong>{wording}</strong>:{' '}
            {own
              .map((t, i) =>
                t.returns && t.returns.of > 0
                  ? `text ${i + 1}: ${shareWords(t.returns)} came back`
                  : `text ${i + 1}: too recent to tell`,
              )
              .join('; ')}
            .{' '}
            {better
              ? `Text ${better.better + 1} did better than text ${better.worse + 1} by more than chance.`
              : 'No text did better by more than chance.'}
          </li>
        ))}
      </ul>
    </section>
  );
}

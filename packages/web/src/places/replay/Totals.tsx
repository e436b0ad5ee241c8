import { dateWords, oneDecimal, plural, numberWords } from '@zest-bell/core/time';
import type { ReplayResult } from '@zest-bell/core/outcomes';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { PlainTable } from '../../ui/PlainTable.tsx';

/** What rounds would come to, of the past or ahead: each figure with its whole. */
function totalsOf(here: CourseHere, seen: ReplayResult): [term: string, words: string][] {
  return [
    ['Nudges', plural(seen.nudges + seen.held, 'nudge')],
    ['Students reached', `${numberWords(seen.reached)} of ${plural(seen.audience, 'student')}`],
    ['Held back by limits', plural(seen.heldBack, 'time')],
    ['Waiting for you', plural(seen.held, 'nudge')],
    ['Told to others', alertWords(seen)],
    ['Busiest day', seen.busiest ? `${dateWords(seen.busiest.day)}: ${plural(seen.busiest.nudges, 'nudge')}` : 'none'],
    ['Most nudged', seen.most ? mostWords(here, seen.most) : 'nobody'],
    ['From match to nudge', seen.notice ? noticeWords(seen.notice) : 'no nudge'],
  ];
}

export function Totals({ here, seen }: { readonly here: CourseHere; readonly seen: ReplayResult }) {
  const facts = totalsOf(here, seen).filter(
    ([term]) => (term !== 'Waiting for you' || seen.held > 0) && (term !== 'Told to others' || seen.alerts > 0),
  );
  return (
    <dl aria-label="Totals" className="grid grid-cols-[repeat(auto-fit,minmax(150px,1fr))] gap-3">
      {facts.map(([term, words]) => (
        <div key={term} className="rounded-xl border border-line bg-sheet px-3.5 py-2">
          <dt className="text-[13px] text-ink-3">{term}</dt>
          <dd className="font-semibold">{words}</dd>
        </div>
      ))}
    </dl>
  );
}

/** The same of two, side by side. */
export function TotalsTable(props: {
  readonly here: CourseHere;
  readonly label: string;
  readonly columns: readonly { readonly name: string; readonly seen: ReplayResult }[];
}) {
  const { here, label, columns } = props;
  const all = columns.map((c) => totalsOf(here, c.seen));
  return (
    <PlainTable
      label={label}
      hideFirst
      columns={[{ name: 'Figure' }, ...columns.map((c) => ({ name: c.name }))]}
      rows={all[0]!.map(([term], i) => ({
        key: term,
        head: <span className="font-normal text-ink-2">{term}</span>,
        cells: all.map((words) => <strong key={term}>{words[i]![1]}</strong>),
      }))}
    />
  );
}

/** Alerts write to no student: they are counted apart (engine R11b). */
const alertWords = ({ alerts, alerted }: ReplayResult): string =>
  alerts === 0 ? 'nothing' : `${plural(alerts, 'alert')} about ${plural(alerted, 'student')}`;

/** Nobody is named for a number that others have as well. */
const mostWords = (here: CourseHere, { student, nudges, students }: NonNullable<ReplayResult['most']>): string =>
  students === 1
    ? `${nameOf(here, student)}: ${plural(nudges, 'nudge')}`
    : `${plural(students, 'student')}: ${plural(nudges, 'nudge')} each`;

const noticeWords = ({ median, high }: NonNullable<ReplayResult['notice']>): string => {
  const half = median < 0.05 ? 'half on the same day' : `half within ${plural(Number(oneDecimal(median)), 'day')}`;
  return `${half}, at most ${plural(high, 'day')}`;
};

import { dateWords, oneDecimal, plural, numberWords } from '@zest-bell/core/time';
import type { ReplayResult } from '@zest-bell/core/outcomes';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { PlainTable } from '../../ui/PlainTable.tsx';

interface Total {
  readonly name: string;
  readonly value: string;
  /** What else is to be said of it. */
  readonly more: string;
}

/** What checks would come to, of the past or ahead: each figure with its whole. */
function totalsOf(here: CourseHere, seen: ReplayResult): readonly Total[] {
  const { busiest, most, notice } = seen;
  return [
    { name: 'Nudges', value: numberWords(seen.nudges + seen.held), more: '' },
    { name: 'Students reached', value: `${numberWords(seen.reached)} of ${numberWords(seen.audience)}`, more: '' },
    { name: 'Held back by limits', value: numberWords(seen.heldBack), more: '' },
    { name: 'Waiting for you', value: numberWords(seen.held), more: '' },
    {
      name: 'Told to others',
      value: numberWords(seen.alerts),
      more: seen.alerts === 0 ? '' : `about ${plural(seen.alerted, 'student')}`,
    },
    {
      name: 'Busiest day',
      value: busiest ? numberWords(busiest.nudges) : '0',
      more: busiest ? `on ${dateWords(busiest.day)}` : '',
    },
    { name: 'Most nudged', value: most ? numberWords(most.nudges) : '0', more: most ? mostWords(here, most) : '' },
    {
      name: 'From match to nudge',
      value: notice ? `${oneDecimal(notice.median)} d` : '–',
      more: notice ? `for half of them, at most ${plural(notice.high, 'day')}` : 'no nudge',
    },
  ];
}

export function Totals(props: {
  readonly here: CourseHere;
  readonly seen: ReplayResult;
  /** Nudges that were really sent, where that can be compared. */
  readonly sent?: number | undefined;
}) {
  const { here, seen, sent } = props;
  const facts = totalsOf(here, seen).filter(
    ({ name }) => (name !== 'Waiting for you' || seen.held > 0) && (name !== 'Told to others' || seen.alerts > 0),
  );
  return (
    <dl aria-label="Totals" className="grid grid-cols-[repeat(auto-fit,minmax(150px,1fr))] gap-3">
      {facts.map(({ name, value, more }) => (
        <div key={name} className="rounded-xl border border-line bg-sheet px-3.5 py-2">
          <dt className="text-[13px] text-ink-3">{name}</dt>
          <dd>
            <strong className="block text-[22px] leading-tight font-bold tabular-nums">{value}</strong>
            <span className="block text-[13px] text-ink-2">
              {name === 'Nudges' && sent !== undefined ? `really sent: ${numberWords(sent)}` : more}
            </span>
          </dd>
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
      rows={all[0]!.map(({ name }, i) => ({
        key: name,
        head: <span className="font-normal text-ink-2">{name}</span>,
        cells: all.map((totals) => {
          const { value, more } = totals[i]!;
          return (
            <span key={name}>
              <strong className="tabular-nums">{value}</strong>{' '}
              {more !== '' && <span className="text-[13px] text-ink-2">{more}</span>}
            </span>
          );
        }),
      }))}
    />
  );
}

/** Nobody is named for a number that others have as well. */
const mostWords = (here: CourseHere, { student, students }: NonNullable<ReplayResult['most']>): string =>
  students === 1 ? nameOf(here, student) : `${plural(students, 'student')} each`;

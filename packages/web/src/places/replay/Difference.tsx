/** Who is gained and lost by a change, how many more messages, and how much earlier. */
import { Link } from 'react-router';
import { oneDecimal, plural } from '@zest-bell/core/time';
import { compareReplays, type ReplayResult } from '@zest-bell/core/outcomes';
import { nameOf, studentPath, type CourseHere } from '../../lib/here.ts';
import { TotalsTable } from './Totals.tsx';

export function Difference(props: {
  readonly here: CourseHere;
  readonly before: ReplayResult;
  readonly after: ReplayResult;
}) {
  const { here, before, after } = props;
  const { more, gained, lost, earlier, alerts } = compareReplays(before, after);
  return (
    <section aria-label="What would change" className="rounded-[16px] bg-zest-soft px-5 py-3.5 text-[15px]">
      <h2 className="text-[16px] font-bold">What would change</h2>
      <ul className="mt-1 mb-3 grid gap-0.5">
        <li>
          {more === 0
            ? 'The same number of nudges'
            : `${plural(Math.abs(more), 'nudge')} ${more > 0 ? 'more' : 'fewer'}`}
          .
        </li>
        {alerts !== 0 && (
          <li>
            {plural(Math.abs(alerts), 'alert')} {alerts > 0 ? 'more' : 'fewer'} to others.
          </li>
        )}
        <li>
          {gained.length === 0 ? (
            'No other student would be reached.'
          ) : (
            <>
              Also reached: <Names here={here} students={gained} />.
            </>
          )}
        </li>
        <li>
          {lost.length === 0 ? (
            'No student would be lost.'
          ) : (
            <>
              No longer reached: <Names here={here} students={lost} />.
            </>
          )}
        </li>
        {earlier !== null && (
          <li>
            First nudges to students reached either way:{' '}
            {Math.abs(earlier) < 0.05
              ? 'at the same time'
              : `${oneDecimal(Math.abs(earlier))} days ${earlier > 0 ? 'earlier' : 'later'} on average`}
            .
          </li>
        )}
      </ul>
      <TotalsTable
        here={here}
        label="Side by side"
        columns={[
          { name: 'As it is', seen: before },
          { name: 'As tried', seen: after },
        ]}
      />
    </section>
  );
}

/** Names that are written out. */
const MOST = 8;

function Names({ here, students }: { readonly here: CourseHere; readonly students: readonly string[] }) {
  return (
    <>
      {students.slice(0, MOST).map((s, i) => (
        <span key={s}>
          {i > 0 && '; '}
          <Link className="underline-offset-4 hover:underline" to={studentPath(here, s)}>
            {nameOf(here, s)}
          </Link>
        </span>
      ))}
      {students.length > MOST && ` and ${students.length - MOST} more`}
    </>
  );
}

/** The coming days: which rules look, and how many they would nudge if nobody does anything more. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { plural, timeWords, weekdayDateWords } from '@zest-bell/core/time';
import type { AheadAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { Failed } from '../../parts/common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { useMedia } from '../../ui/useMedia.ts';
import { Card } from './Card.tsx';
import { Explained } from '../../ui/Explained.tsx';

/** Days that are listed at first on a phone. */
const FIRST = 2;

type DayAhead = AheadAnswer['days'][number];

export function Ahead({ here }: { readonly here: CourseHere }) {
  const ahead = useQuery({
    ...atMoment(['ahead', here.id], here.now),
    queryFn: ({ signal }) => ask(contract.desk.ahead, { course: here.id }, { signal }),
  });
  const isPhone = useMedia('(max-width: 559px)');
  const [all, setAll] = useState(false);
  const days = ahead.data?.days ?? [];
  const shown = isPhone && !all ? days.slice(0, FIRST) : days;
  const note = (
    <>
      How many <Explained word="nudge">nudges</Explained> each day would send if nobody does anything more.
    </>
  );
  return (
    <Card title="Coming checks" note={note}>
      {ahead.isError && <Failed error={ahead.error} retry={() => void ahead.refetch()} />}
      {ahead.isPending && <p className="py-2 text-ink-3">Looking ahead …</p>}
      {ahead.data?.days.length === 0 && <p className="py-2 text-ink-2">No rule runs in the next seven days.</p>}
      <ol>
        {shown.map((day) => (
          <AheadDay key={day.date} here={here} day={day} />
        ))}
      </ol>
      {days.length > shown.length && (
        <Button look="quiet" onClick={() => setAll(true)}>
          Show {plural(days.length - shown.length, 'more day')}
        </Button>
      )}
    </Card>
  );
}

function AheadDay({ here, day }: { readonly here: CourseHere; readonly day: DayAhead }) {
  const total = day.rules.reduce((sum, r) => sum + r.nudges, 0);
  const alerts = day.rules.reduce((sum, r) => sum + r.alerts, 0);
  const words = [total > 0 && plural(total, 'nudge'), alerts > 0 && plural(alerts, 'alert')].filter(Boolean);
  return (
    <li className="border-b border-line py-2.5 last:border-b-0">
      <p className="flex items-baseline justify-between gap-3">
        <strong>{weekdayDateWords(day.date)}</strong>
        <span className="text-[14px] text-ink-2">{words.length === 0 ? 'nobody' : words.join(', ')}</span>
      </p>
      <ul>
        {day.rules
          .toSorted((a, b) => a.rounds[0]! - b.rounds[0]!)
          .map((r) => (
            <li key={r.id} className="flex items-baseline justify-between gap-3 text-[14.5px]">
              <span className="min-w-0">
                <Link className="underline-offset-4 hover:underline" to={`/c/${here.id}/rules/${r.id}`}>
                  {r.name}
                </Link>{' '}
                <span className="font-num text-[13px] text-ink-3">
                  {timeWords(r.rounds[0]!, here.course.timeZone)}
                  {r.rounds.length > 1 && ` and ${r.rounds.length - 1} more`}
                </span>
              </span>
              <span className="font-num text-[13px] whitespace-nowrap text-ink-2">
                {r.nudges}
                {r.held > 0 && ` (${r.held === r.nudges ? 'waiting for you' : `${r.held} waiting for you`})`}
                {r.alerts > 0 && `, ${plural(r.alerts, 'alert')}`}
              </span>
            </li>
          ))}
      </ul>
    </li>
  );
}

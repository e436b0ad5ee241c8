/** What happened in the last days, as sentences about students: who came back first, then whom each rule nudged. */
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { dayWords, plural } from '@zest-bell/core/time';
import { RULE_WEIGHTS } from '@zest-bell/core/rules';
import type { TodayAnswer, TodayRound } from '@zest-bell/core/exchange';
import { studentPath, type CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { When } from '../../ui/When.tsx';
import { Card } from './Card.tsx';

/** Names that a sentence holds. */
const NAMES = 4;

export function Since({ here, today }: { readonly here: CourseHere; readonly today: TodayAnswer }) {
  const zone = here.course.timeZone;
  const nudging = today.rang
    .filter((r) => r.nudged.length + r.alerted.length > 0)
    .sort((a, b) => RULE_WEIGHTS.indexOf(b.weight) - RULE_WEIGHTS.indexOf(a.weight) || b.at - a.at);
  const quiet = today.rang.length - nudging.length;
  const nothing = nudging.length === 0 && today.returned.length === 0;
  return (
    <Card title={`Since ${dayWords(today.since, zone)}`}>
      {nothing && <p className="text-ink-2">No student was nudged, and nobody came back.</p>}
      <ul aria-label="Who came back">
        {today.returned.map((p) => (
          <li key={`${p.student} ${p.nudge}`} className="border-b border-line py-2 last:border-b-0">
            <strong>
              <StudentLink here={here} student={p.student} name={p.name} />
            </strong>{' '}
            came back: {p.what} <When at={p.at} zone={zone} words={dayWords} />.
          </li>
        ))}
      </ul>
      <p className="py-1.5 text-[14px]">
        <Link className="text-pine underline underline-offset-4" to={`/c/${here.id}/log/back`}>
          Who came back after a message
        </Link>
      </p>
      <ul aria-label="Who was nudged">
        {nudging.map((r) => (
          <Nudged key={`${r.rule} ${r.at}`} here={here} round={r} />
        ))}
      </ul>
      {quiet > 0 && (
        <p className="pt-2.5 text-[14px] text-ink-2">
          {quiet === 1 ? 'One more check ran and' : `${plural(quiet, 'more check')} ran and`} nudged nobody.
        </p>
      )}
      {today.paused.length > 0 && (
        <p className="pt-1.5 text-[14px] text-ink-2">
          {today.paused.length === 1 ? 'One student has' : `${plural(today.paused.length, 'student')} have`} paused
          nudges:{' '}
          {joined(
            today.paused.map((p) => (
              <span key={p.student}>
                <StudentLink here={here} student={p.student} name={p.name} />
                {p.until !== null && ` until ${dayWords(p.until, zone)}`}
              </span>
            )),
          )}
          .
        </p>
      )}
    </Card>
  );
}

function Nudged({ here, round: r }: { readonly here: CourseHere; readonly round: TodayRound }) {
  return (
    <li className="border-b border-line py-2 last:border-b-0">
      <Link className="font-bold underline-offset-4 hover:underline" to={`/c/${here.id}/rules/${r.rule}/history`}>
        {r.name}
      </Link>{' '}
      {r.nudged.length > 0 && (
        <>
          nudged <Names here={here} people={r.nudged} />
        </>
      )}
      {r.nudged.length > 0 && r.alerted.length > 0 && ' and '}
      {r.alerted.length > 0 && (
        <>
          told others about <Names here={here} people={r.alerted} />
        </>
      )}{' '}
      on <When at={r.at} zone={here.course.timeZone} />
      {r.trigger === 'late' && `, late: it made up for ${plural(r.missed.length, 'missed check')}`}.
    </li>
  );
}

function Names({ here, people }: { readonly here: CourseHere; readonly people: TodayRound['nudged'] }) {
  const [all, setAll] = useState(false);
  const shown = all ? people : people.slice(0, NAMES);
  const rest = people.length - shown.length;
  const names = shown.map((n) => <StudentLink key={n.student} here={here} student={n.student} name={n.name} />);
  const others = (
    <Button key="others" look="quiet" className="min-h-0!" onClick={() => setAll(true)}>
      {plural(rest, 'other')}
    </Button>
  );
  return <>{joined(rest > 0 ? [...names, others] : names)}</>;
}

const StudentLink = (props: { readonly here: CourseHere; readonly student: string; readonly name: string }) => (
  <Link className="underline-offset-4 hover:underline" to={studentPath(props.here, props.student)}>
    {props.name}
  </Link>
);

/** "a, b and c" of elements. */
const joined = (parts: readonly ReactNode[]): ReactNode[] =>
  parts.map((part, i) => [i === 0 ? '' : i === parts.length - 1 ? ' and ' : ', ', part]);

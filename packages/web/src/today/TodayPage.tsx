/** The morning desk: anything wrong first, then what rang and whom it reached, what rings next, and what is about to end. */
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import {
  dayWords,
  instantWords,
  listWords,
  plural,
  timeWords,
  type MailTroubleAnswer,
  type StandingAnswer,
  type TodayAnswer,
  type TodayRound,
} from '@zest-bell/core';
import { api } from '../app/api.ts';
import { studentPath, useHere, type Here } from '../app/here.ts';
import { refreshAll, useStanding } from '../app/queries.ts';
import { mailTroubleHelp, mailTroubleWords } from '../course/mailTroubleWords.ts';
import { attempt } from '../app/attempt.ts';
import { roundWords } from '../app/decisionWords.ts';
import { Button } from '../ui/Button.tsx';
import { Failed, Loading } from '../ui/States.tsx';
import { When } from '../ui/When.tsx';

export function TodayPage() {
  const here = useHere();
  const today = useQuery({
    queryKey: ['today', here.id],
    queryFn: () => api.get<TodayAnswer>(`/courses/${here.id}/today`),
  });
  const standing = useStanding(here.id);
  if (today.isPending || standing.isPending) return <Loading what="your morning" />;
  const error = today.error ?? standing.error;
  if (error || !today.data || !standing.data) return <Failed error={error} retry={() => void today.refetch()} />;
  return (
    <div className="mx-auto w-full max-w-[1240px] px-5 py-6">
      <h1 className="text-[28px] leading-tight font-bold">Today</h1>
      <p className="text-ink-2">
        {dayWords(here.now, here.course.timeZone)}, {here.course.title}
      </p>
      <div className="mt-4 grid gap-4 min-[980px]:grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)]">
        <div className="grid content-start gap-4">
          <Wrong here={here} standing={standing.data} today={today.data} />
          <Answers here={here} today={today.data} />
          <Rang here={here} today={today.data} />
        </div>
        <Next here={here} today={today.data} />
      </div>
    </div>
  );
}

function Card({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <section aria-label={title} className="self-start rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="mb-1 text-[18px] font-bold">{title}</h2>
      {children}
    </section>
  );
}

/** What needs the instructor, each line with what to do. */
function Wrong(props: { readonly here: Here; readonly standing: StandingAnswer; readonly today: TodayAnswer }) {
  const { here, standing: s, today } = props;
  const zone = here.course.timeZone;
  const log = (state: string) => `/c/${here.id}/log?view=${state}`;
  const lines: ReactNode[] = [];
  if (s.stopped)
    lines.push(
      <Line key="stopped" to={`/c/${here.id}/course`} act="Start it again">
        All mail of this course is stopped.
      </Line>,
    );
  if (s.feed.stale) {
    lines.push(
      <Line key="stale" to={`/c/${here.id}/course`} act="See the limit">
        Rounds and mail are held until the learning platform tells more. See that its connection works; nothing is lost.
      </Line>,
    );
  }
  if (s.mailTrouble) lines.push(<MailTrouble key="mail trouble" here={here} trouble={s.mailTrouble} />);
  for (const t of s.troubles) {
    lines.push(
      <li key={`trouble ${t.rule}`} className="border-b border-line py-2.5">
        <p>
          <strong>
            The rule “{t.name}” could not run on {instantWords(t.since, zone)}.
          </strong>{' '}
          Nothing was decided and nothing was sent. It was tried {plural(t.attempts, 'time')} and is tried again{' '}
          {timeWords(t.nextTryAt, zone)}. Other rules are not affected.
        </p>
        <p className="text-[14px] text-ink-2">What went wrong: {t.message}</p>
        <p className="mt-1 flex gap-4">
          <Retry here={here} />
          <Link
            className="font-semibold text-pine underline-offset-4 hover:underline"
            to={`/c/${here.id}/rules/${t.rule}`}
          >
            Open the rule
          </Link>
        </p>
      </li>,
    );
  }
  if (s.uncertain > 0) {
    lines.push(
      <Line key="uncertain" to={log('uncertain')} act="Say what became of them">
        {plural(s.uncertain, 'message')} may or may not have arrived.
      </Line>,
    );
  }
  if (s.failed > 0) {
    lines.push(
      <Line key="failed" to={log('failed')} act="See why">
        {plural(s.failed, 'message')} could not be delivered.
      </Line>,
    );
  }
  if (s.held > 0) {
    lines.push(
      <Line key="held" to={log('held')} act="See them">
        {plural(s.held, 'nudge')} {s.held === 1 ? 'waits' : 'wait'} for your decision.
      </Line>,
    );
  }
  for (const p of today.bounced) {
    lines.push(
      <Line key={`bounced ${p.student}`} to={studentPath(here, p.student)} act="See what came back">
        Mail to {p.name} came back on {dayWords(p.at, zone)}: that address does not work.
      </Line>,
    );
  }
  for (const m of today.mailbox) {
    lines.push(
      <li key={`mailbox ${m.name}`} className="border-b border-line py-2.5">
        Answers in {m.name} cannot be looked for: <span className="font-num text-[13px]">{m.said}</span>. Whoever runs
        the server can put it right; nothing is lost meanwhile.
      </li>,
    );
  }
  for (const e of today.endingSoon) {
    lines.push(
      <Line key={`ending ${e.rule}`} to={`/c/${here.id}/rules/${e.rule}`} act="Give it a later last day">
        “{e.name}” looks for the last time on {dayWords(e.last, zone)}.
      </Line>,
    );
  }
  return (
    <Card title={lines.length === 0 ? 'Nothing waits for you' : 'Waits for you'}>
      {lines.length === 0 ? (
        <p className="text-ink-2">Mail goes out, data comes in, and every round was held.</p>
      ) : (
        <ul>{lines}</ul>
      )}
    </Card>
  );
}

function Line(props: { readonly to: string; readonly act: string; readonly children: ReactNode }) {
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-line py-2.5">
      <span className="min-w-0 flex-1 basis-72">{props.children}</span>
      <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={props.to}>
        {props.act}
      </Link>
    </li>
  );
}

/** No mail leaves: why, what helps, and the way to try it now. */
function MailTrouble({ here, trouble }: { readonly here: Here; readonly trouble: MailTroubleAnswer }) {
  const [busy, setBusy] = useState(false);
  const retry = async () => {
    setBusy(true);
    const answer = await attempt(() => api.post<StandingAnswer>(`/courses/${here.id}/mail/retry`));
    await refreshAll();
    setBusy(false);
    if (answer) toast(answer.mailTrouble ? 'The mail server still takes no mail.' : 'Mail is going out again.');
  };
  return (
    <li className="border-b border-line py-2.5">
      <p>
        <strong>{mailTroubleWords(trouble)}</strong> Messages have been waiting since{' '}
        <When at={trouble.since} zone={here.course.timeZone} />. None of them is lost.
      </p>
      <p className="text-[14px] text-ink-2">
        {mailTroubleHelp(trouble)} The server said: <span className="font-num text-[13px]">{trouble.response}</span>
      </p>
      <Button look="quiet" busy={busy} onClick={() => void retry()}>
        Try again now
      </Button>
    </li>
  );
}

function Retry({ here }: { readonly here: Here }) {
  const [busy, setBusy] = useState(false);
  const retry = async () => {
    setBusy(true);
    const answer = await attempt(() => api.post<StandingAnswer>(`/courses/${here.id}/rounds/retry`));
    await refreshAll();
    setBusy(false);
    if (answer) toast(answer.troubles.length === 0 ? 'It was held now.' : 'It failed again.');
  };
  return (
    <Button look="quiet" busy={busy} onClick={() => void retry()}>
      Try it now
    </Button>
  );
}

/** Who answered: the words themselves, and the way to the nudge. */
function Answers({ here, today }: { readonly here: Here; readonly today: TodayAnswer }) {
  const zone = here.course.timeZone;
  if (today.answers.length === 0) return null;
  return (
    <Card title="Who answered">
      <ul>
        {today.answers.map((a) => (
          <li key={`${a.nudge} ${a.at}`} className="border-b border-line py-2.5">
            <p className="flex flex-wrap items-baseline gap-x-3">
              <Link className="font-bold underline-offset-4 hover:underline" to={`/c/${here.id}/log?nudge=${a.nudge}`}>
                {a.name}
              </Link>
              <span className="text-[14px] text-ink-2">
                <When at={a.at} zone={zone} />
              </span>
            </p>
            <p className="line-clamp-2 text-[14.5px]">“{a.text}”</p>
          </li>
        ))}
      </ul>
    </Card>
  );
}

function Rang({ here, today }: { readonly here: Here; readonly today: TodayAnswer }) {
  const zone = here.course.timeZone;
  const heard = today.rang.filter((r) => r.heardNames.length > 0);
  const quiet = today.rang.length - heard.length;
  return (
    <Card title={`What rang since ${dayWords(today.since, zone)}`}>
      {today.rang.length === 0 && <p className="text-ink-2">No rule looked.</p>}
      <ul>
        {heard.map((r) => (
          <li key={`${r.rule} ${r.at}`} className="border-b border-line py-2.5">
            <p className="flex flex-wrap items-baseline gap-x-3">
              <Link
                className="font-bold underline-offset-4 hover:underline"
                to={`/c/${here.id}/rules/${r.rule}/history`}
              >
                {r.name}
              </Link>
              <span className="text-[14px] text-ink-2">
                <When at={r.at} zone={zone} />
                {r.trigger === 'late' && `, late: makes up for ${plural(r.missed.length, 'round')}`}
              </span>
            </p>
            <p className="text-[14.5px]">
              {namesWords(r)} <span className="text-ink-2">({roundWords(r)})</span>
            </p>
          </li>
        ))}
      </ul>
      {today.returned.length > 0 && (
        <p className="pt-2.5 text-[14.5px]" aria-label="Who came back">
          <strong>Came back</strong> by an act of their own:{' '}
          {today.returned.map((p, i) => (
            <span key={`${p.student} ${p.nudge}`}>
              {i > 0 && ', '}
              <Link className="underline-offset-4 hover:underline" to={studentPath(here, p.student)}>
                {p.name}
              </Link>
            </span>
          ))}
          .
        </p>
      )}
      {quiet > 0 && <p className="pt-2.5 text-[14px] text-ink-2">{plural(quiet, 'more round')} reached nobody.</p>}
      {today.paused.length > 0 && (
        <p className="pt-1.5 text-[14px] text-ink-2">
          Paused nudges:{' '}
          {today.paused.map((p, i) => (
            <span key={p.student}>
              {i > 0 && ', '}
              <Link className="underline-offset-4 hover:underline" to={studentPath(here, p.student)}>
                {p.name}
              </Link>
              {p.until !== null && ` until ${dayWords(p.until, zone)}`}
            </span>
          ))}
          .
        </p>
      )}
    </Card>
  );
}

function namesWords({ heardNames }: TodayRound): string {
  const shown = heardNames.slice(0, 4);
  const rest = heardNames.length - shown.length;
  return listWords(rest > 0 ? [...shown, plural(rest, 'other')] : shown);
}

function Next({ here, today }: { readonly here: Here; readonly today: TodayAnswer }) {
  const zone = here.course.timeZone;
  return (
    <Card title="What rings next">
      {today.next.length === 0 ? (
        <p className="text-ink-2">No rule looks in the next seven days.</p>
      ) : (
        <ol>
          {today.next.map((n) => (
            <li key={n.at} className="border-b border-line py-2 text-[14.5px]">
              <span className="font-num text-[13px] text-ink-2">
                <When at={n.at} zone={zone} />
              </span>
              {n.rules.map((r) => (
                <Link
                  key={r.id}
                  className="block font-semibold underline-offset-4 hover:underline"
                  to={`/c/${here.id}/rules/${r.id}`}
                >
                  {r.name}
                </Link>
              ))}
            </li>
          ))}
        </ol>
      )}
    </Card>
  );
}

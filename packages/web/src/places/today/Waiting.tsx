/** What needs the instructor, each line with what to do; behind it, what waits in the other courses. */
import { useState, type ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { dayWords, instantWords, listWords, numberWords, plural, timeWords } from '@zest-bell/core/time';
import {
  isClear,
  MACHINE_TROUBLES,
  type InboxAnswer,
  type MailTroubleAnswer,
  type StandingAnswer,
  type TodayAnswer,
  type Trouble,
} from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { studentPath, type CourseHere } from '../../lib/here.ts';
import { adminTroublesQuery, refreshAll, useSession } from '../../lib/queries.ts';
import { mailTroubleHelp, mailTroubleWords } from '../../lib/mailTroubleWords.ts';
import { Button } from '../../ui/Button.tsx';
import { When } from '../../ui/When.tsx';
import { Card, Line } from './Card.tsx';
import { silencesOf } from '../../parts/editing/AskSilence.tsx';
import { OtherCourse } from './OtherCourse.tsx';

export function Waiting(props: {
  readonly here: CourseHere;
  readonly standing: StandingAnswer;
  readonly today: TodayAnswer;
  readonly inbox: InboxAnswer;
}) {
  const { here, inbox } = props;
  const lines = [
    ...useMachineLines(props.today.clock.length > 0),
    ...linesOfStanding(here, props.standing),
    ...linesOfToday(here, props.today),
  ];
  const others = inbox.courses.filter((c) => c.course !== here.id && !isClear(c));
  const nothing = lines.length === 0 && others.length === 0;
  return (
    <Card title={nothing ? 'Nothing is waiting for your decision' : 'Waiting for you'}>
      {lines.length === 0 && (
        <p className="text-ink-2">
          {others.length === 0 ? '' : `${here.course.code}: `}
          {clearWords(props.standing.feed)}
        </p>
      )}
      <ul>
        {lines}
        {others.map((c) => (
          <OtherCourse key={c.course} course={c} />
        ))}
      </ul>
    </Card>
  );
}

/** For administrators: what is wrong with the machine itself, but for what the course's own lines say. */
function useMachineLines(clockIsTold: boolean): ReactNode[] {
  const isAdministrator = useSession().data?.account?.isAdministrator ?? false;
  const troubles = useQuery({ ...adminTroublesQuery, enabled: isAdministrator });
  const kinds: ReadonlySet<string> = new Set(MACHINE_TROUBLES);
  return (troubles.data ?? [])
    .filter((t) => kinds.has(t.kind) && !(clockIsTold && t.kind === 'clock'))
    .map((t) => (
      <Line key={`machine ${t.kind} ${t.says}`} to="/admin" act="Open This installation">
        {t.says}
      </Line>
    ));
}

function linesOfStanding(here: CourseHere, s: StandingAnswer): ReactNode[] {
  const log = (state: string) => `/c/${here.id}/log?view=${state}`;
  return [
    s.stopped && (
      <Line key="stopped" to={`/c/${here.id}/course`} act="Start mail again">
        All mail of this course is stopped.
      </Line>
    ),
    ...silencesOf(here).map((words) => (
      <Line key={words} to={`/c/${here.id}/course#budget`} act="Change the limits">
        {words}
      </Line>
    )),
    s.feed.stale && (
      <Line key="stale" to={`/c/${here.id}/course`} act="Open Course">
        Rules and mail are waiting for new data from the learning platform. Check its connection. Nothing is lost.
      </Line>
    ),
    s.mailTrouble && <MailTrouble key="mail trouble" here={here} trouble={s.mailTrouble} />,
    ...s.stuck.map((r) => (
      <Line key={`stuck ${r.rule}`} to={`/c/${here.id}/rules/${r.rule}`} act="Open the rule">
        “{r.name}” is on and cannot run: {r.why}. Choose something else in it, or turn it off.
      </Line>
    )),
    ...s.troubles.map((t) => <RuleTrouble key={`trouble ${t.rule}`} here={here} trouble={t} />),
    s.held > 0 && (
      <Line key="held" to={`/c/${here.id}/tray`} act={`Decide on ${numberWords(s.held)}`} isFirst>
        {plural(s.held, 'nudge')} {s.held === 1 ? 'is' : 'are'} waiting for your decision.
      </Line>
    ),
    s.uncertain > 0 && (
      <Line key="uncertain" to={log('uncertain')} act="Check them">
        {plural(s.uncertain, 'message')} {s.uncertain === 1 ? 'is' : 'are'} unclear: the mail server did not say whether{' '}
        {s.uncertain === 1 ? 'it' : 'they'} arrived.
      </Line>
    ),
    s.failed > 0 && (
      <Line key="failed" to={log('failed')} act="See why">
        {plural(s.failed, 'message')} could not be delivered.
      </Line>
    ),
  ].filter(Boolean);
}

function linesOfToday(here: CourseHere, today: TodayAnswer): ReactNode[] {
  const zone = here.course.timeZone;
  return [
    ...today.clock.map(({ from, to, rounds }) => (
      <Line key={`clock ${to}`} to={`/c/${here.id}/log`} act="Look at the log">
        The server’s clock was {to < from ? 'set back' : 'set forward, or the server slept,'} from{' '}
        {instantWords(from, zone)} to {instantWords(to, zone)}.{' '}
        {listWords(rounds.map((r) => `“${r.name}” of ${instantWords(r.at, zone)}`))} ran too{' '}
        {to < from ? 'early' : 'late'} because of it.
      </Line>
    )),
    ...today.bounced.map((p) => (
      <Line key={`bounced ${p.student}`} to={studentPath(here, p.student)} act="See what came back">
        Mail to {p.name} came back on {dayWords(p.at, zone)}. The address does not work.
      </Line>
    )),
    ...today.mailbox.map((m) => (
      <li key={`mailbox ${m.name}`} className="border-b border-line py-2.5 last:border-b-0">
        Zest Bell cannot look for replies in {m.name}: <span className="font-num text-[13px]">{m.said}</span>. Tell the
        person who runs your server. No reply is lost in the meantime.
      </li>
    )),
    ...today.files.map((f) => (
      <Line key={`file ${f.name} ${f.at}`} to={`/c/${here.id}/course/data`} act="See the refusals">
        {f.trouble === null
          ? `${plural(f.refused, 'row')} of ${f.name} from the course’s folder ${f.refused === 1 ? 'was' : 'were'} refused.`
          : `${f.name} from the course’s folder could not be read. ${f.trouble}`}
      </Line>
    )),
    today.statements > 0 && (
      <Line key="statements" to={`/c/${here.id}/course/data`} act="Say what they mean">
        {plural(today.statements, 'statement')} from your platform {today.statements === 1 ? 'fits' : 'fit'} nobody or
        nothing yet.
      </Line>
    ),
    ...today.endingSoon.map((e) => (
      <Line key={`ending ${e.rule}`} to={`/c/${here.id}/rules/${e.rule}`} act="Choose a later last day">
        “{e.name}” runs for the last time on {dayWords(e.last, zone)}.
      </Line>
    )),
  ].filter(Boolean);
}

function RuleTrouble({ here, trouble: t }: { readonly here: CourseHere; readonly trouble: Trouble }) {
  const zone = here.course.timeZone;
  return (
    <li className="border-b border-line py-2.5 last:border-b-0">
      <p>
        <strong>
          The rule “{t.name}” could not run on {instantWords(t.since, zone)}.
        </strong>{' '}
        It sent nothing. Zest Bell tried {plural(t.attempts, 'time')} and tries again at {timeWords(t.nextTryAt, zone)}.
        Other rules are not affected.
      </p>
      <p className="text-[14px] text-ink-2">What went wrong: {t.message}</p>
      <p className="mt-1 flex gap-4">
        <TryAgain
          needs="rules.run"
          retry={() => ask(contract.course.retryRounds, { course: here.id })}
          said={(answer) => (answer.troubles.length === 0 ? 'The rule ran.' : 'The rule still cannot run.')}
        />
        <Link
          className="font-semibold text-pine underline-offset-4 hover:underline"
          to={`/c/${here.id}/rules/${t.rule}`}
        >
          Open the rule
        </Link>
      </p>
    </li>
  );
}

/** No mail leaves: why, what helps, and the way to try it now. */
function MailTrouble({ here, trouble }: { readonly here: CourseHere; readonly trouble: MailTroubleAnswer }) {
  return (
    <li className="border-b border-line py-2.5 last:border-b-0">
      <p>
        <strong>{mailTroubleWords(trouble)}</strong> Messages have been waiting since{' '}
        <When at={trouble.since} zone={here.course.timeZone} />. No message is lost.
      </p>
      <p className="text-[14px] text-ink-2">
        {mailTroubleHelp(trouble)} The mail server said:{' '}
        <span className="font-num text-[13px]">{trouble.response}</span>
      </p>
      <TryAgain
        needs="settings.write"
        retry={() => ask(contract.course.retryMail, { course: here.id })}
        said={(answer) => (answer.mailTrouble ? 'The mail server still takes no mail.' : 'Mail is going out again.')}
      />
    </li>
  );
}

function TryAgain(props: {
  readonly needs: string;
  readonly retry: () => Promise<StandingAnswer>;
  readonly said: (answer: StandingAnswer) => string;
}) {
  const [busy, setBusy] = useState(false);
  const retry = async () => {
    setBusy(true);
    const answer = await attempt(() => props.retry());
    await refreshAll();
    setBusy(false);
    if (answer) toast(props.said(answer));
  };
  return (
    <Button needs={props.needs} look="quiet" busy={busy} onClick={() => retry()}>
      Try again now
    </Button>
  );
}

/** What is in order where nothing waits. Data is current only where some has come, and where somebody said for how long it may not. */
export function clearWords({ hasHeard, staleHours }: Pick<StandingAnswer['feed'], 'hasHeard' | 'staleHours'>): string {
  if (!hasHeard) return 'Mail is going out, and every check ran. No course data has come in yet.';
  if (staleHours === null) return 'Mail is going out, and every check ran.';
  return 'Mail is going out, course data is current, and every check ran.';
}

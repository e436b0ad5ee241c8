/** On every place while the course does not ring or send as it should: what is the matter, and where to mend it. */
import { useState, type ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { listWords, plural, numberWords } from '@zest-bell/core/time';
import type { SetupStep } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import type { CourseHere } from '../../lib/here.ts';
import { ask } from '../../lib/api.ts';
import { refreshAll, useStanding } from '../../lib/queries.ts';
import { attempt } from '../../lib/attempt.ts';
import { setupQuery } from '../../parts/setUp/SetUp.tsx';
import { Button } from '../../ui/Button.tsx';
import { mailTroubleWords } from '../../lib/mailTroubleWords.ts';
import { When } from '../../ui/When.tsx';

export function StandingBanner({ here }: { readonly here: CourseHere }) {
  const { data } = useStanding(here.id);
  const setup = useQuery(setupQuery(here.id));
  if (!data) return null;
  const lacks = (step: SetupStep) => setup.data?.steps.some((s) => s.step === step && !s.done) ?? false;
  const zone = here.course.timeZone;
  const { sending } = data;
  if (here.answer.archivedAt !== null)
    return (
      <Lines
        lines={[
          <>
            This course was archived on <When at={here.answer.archivedAt} zone={zone} />: you can read everything, and
            nothing changes or is sent. <To path={`/c/${here.id}/course#archive`}>Open Course</To>
          </>,
        ]}
      />
    );
  const lines = [
    lacks('people') ? (
      <>
        This course has no students yet, so no rule finds anybody.{' '}
        <To path={`/c/${here.id}/course/data`}>Bring a roster in</To>
      </>
    ) : (
      lacks('activity') && (
        <>
          No activity has come in yet, so everybody looks absent.{' '}
          <To path={`/c/${here.id}/course/data`}>Bring activity in</To>
        </>
      )
    ),
    data.stopped && (
      <>
        All mail of this course has been stopped since <When at={data.stopped.at} zone={zone} />.{' '}
        <To path={`/c/${here.id}/course`}>Start mail again</To>
      </>
    ),
    data.feed.stale && (
      <>
        {data.feed.sources.length === 3
          ? 'Rules and mail are waiting: the learning platform has sent no data'
          : `${plural(data.feed.waiting, 'rule')} ${data.feed.waiting === 1 ? 'is' : 'are'} waiting: there is no new data on ${listWords(data.feed.sources)}`}
        {data.feed.heardAt !== null && (
          <>
            {' '}
            since <When at={data.feed.heardAt} zone={zone} />
          </>
        )}
        {data.feed.sources.includes('activity') ? ', so active students may look absent.' : '.'}{' '}
        <To path={`/c/${here.id}/course`}>Open Course</To>
      </>
    ),
    data.mailTrouble && (
      <>
        {mailTroubleWords(data.mailTrouble)} Mail is waiting. No message is lost.{' '}
        <To path={`/c/${here.id}/today`}>What to do</To>
      </>
    ),
    data.troubles.length > 0 && (
      <>
        {plural(data.troubles.length, 'rule')} could not run, so {data.troubles.length === 1 ? 'it' : 'they'} sent
        nothing. <To path={`/c/${here.id}/today`}>What to do</To>
      </>
    ),
  ].filter(Boolean);
  return (
    <>
      {sending && !data.stopped && <Sending here={here} done={sending.done} total={sending.total} />}
      {lines.length > 0 && <Lines lines={lines} />}
    </>
  );
}

function Lines({ lines }: { readonly lines: readonly ReactNode[] }) {
  return (
    <div
      role="status"
      className="border-b border-line bg-tangerine-soft px-5 py-2 text-[14.5px]"
      data-testid="standing"
    >
      {lines.map((line, i) => (
        <p key={i}>
          <span aria-hidden className="text-tangerine-text">
            ▲{' '}
          </span>
          {line}
        </p>
      ))}
    </div>
  );
}

/** Many messages on their way: how far they are, and the way to stop them. */
function Sending(props: { readonly here: CourseHere; readonly done: number; readonly total: number }) {
  const { here, done, total } = props;
  const [busy, setBusy] = useState(false);
  const stop = async () => {
    setBusy(true);
    await attempt(async () => {
      await ask(contract.course.stopMail, { course: here.id });
      await refreshAll();
      toast('Mail is stopped. Messages are waiting; you can start mail again in Course.');
    });
    setBusy(false);
  };
  return (
    <div role="status" className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line bg-sheet px-5 py-2">
      <label className="flex min-w-0 flex-1 basis-60 items-center gap-3 text-[14.5px]">
        <span className="whitespace-nowrap">
          Sending: <span className="font-num">{`${numberWords(done)} of ${numberWords(total)}`}</span>
        </span>
        <progress
          className="h-2 min-w-0 flex-1 appearance-none overflow-hidden rounded-full [&::-moz-progress-bar]:bg-pine [&::-webkit-progress-bar]:bg-fog [&::-webkit-progress-value]:bg-pine"
          value={done}
          max={total}
        />
      </label>
      <Button needs="settings.write" busy={busy} onClick={() => stop()}>
        Stop all mail
      </Button>
    </div>
  );
}

const To = ({ path, children }: { readonly path: string; readonly children: string }) => (
  <Link to={path} className="font-semibold underline underline-offset-4">
    {children}
  </Link>
);

/** Where a course is fed from: each source with what it last told, what it refused and why, and when it is asked next. */
import { useState } from 'react';
import { Link } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { Pulled, SourceCard } from '@zest-bell/core/connections';
import { plural } from '@zest-bell/core/time';
import { ask } from '../../../lib/api.ts';
import { attempt } from '../../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../../lib/here.ts';
import { refreshAll, useSession } from '../../../lib/queries.ts';
import { Failed, Loading } from '../../../parts/common/States.tsx';
import { Button } from '../../../ui/Button.tsx';
import { Dialog } from '../../../ui/Dialog.tsx';
import { PlainTable } from '../../../ui/PlainTable.tsx';
import { When } from '../../../ui/When.tsx';
import { CourseTabPage } from '../CourseTabPage.tsx';
import { AddOneRoster } from './AddOneRoster.tsx';

const CARD = 'rounded-[16px] border border-line bg-sheet px-5 py-4';
const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;

export function ConnectionsPage() {
  const here = useHere();
  const session = useSession();
  const sources = useQuery({
    queryKey: ['sources', here.id],
    queryFn: () => ask(contract.connections.sources, { course: here.id }),
    // Somebody pulls by a schedule while one looks.
    refetchInterval: 30_000,
  });
  return (
    <CourseTabPage here={here} tab="/connections">
      {sources.isError ? (
        <Failed error={sources.error} retry={() => void sources.refetch()} />
      ) : sources.isPending ? (
        <Loading what="the connections" />
      ) : (
        <div className="grid max-w-[1000px] grid-cols-[minmax(0,1fr)] gap-4">
          {sources.data.length === 0 && (
            <section className={CARD}>
              <h2 className="text-[18px] font-bold">No source is connected</h2>
              <p className="mt-1 max-w-[75ch] text-[15px] text-ink-2">
                A source brings people, items and grades by itself. Open Zest Bell from your learning platform, or ask
                the person who runs Zest Bell to connect your student information system. You can still bring in files.
              </p>
            </section>
          )}
          {sources.data.map((source) => (
            <Source key={source.id} here={here} source={source} />
          ))}
          <Sent here={here} />
          {session.data?.account?.isAdministrator && <AddOneRoster key={here.id} here={here} />}
        </div>
      )}
    </CourseTabPage>
  );
}

const STANDARDS = {
  caliper: { name: 'Caliper events', path: 'caliper' },
  xapi: { name: 'xAPI statements', path: 'xapi' },
} as const;

/** What platforms send by themselves: where they send it, and what of it came lately. */
function Sent({ here }: { readonly here: CourseHere }) {
  const arrivals = useQuery({
    queryKey: ['arrivals', here.id],
    queryFn: () => ask(contract.connections.arrivals, { course: here.id }),
    refetchInterval: 30_000,
  });
  return (
    <section aria-label="What a platform can send" className={CARD}>
      <h2 className="text-[18px] font-bold">What a platform can send</h2>
      <p className="mt-1 text-[15px] text-ink-2">
        Give these addresses to the person who runs the platform, with a token from the Access page.
      </p>
      {arrivals.isError && <Failed error={arrivals.error} retry={() => void arrivals.refetch()} />}
      {arrivals.data?.map(({ standard, lastAt, lately, waiting }) => (
        <div key={standard} className="mt-3">
          <h3 className="text-[15px] font-semibold">{STANDARDS[standard].name}</h3>
          <p className="font-num text-[14px] break-all">{`${location.origin}/${STANDARDS[standard].path}/${here.id}`}</p>
          <p className="text-[15px]">
            {lastAt === null ? (
              'None so far.'
            ) : (
              <>
                {lately.toLocaleString('en-US')} came in the last seven days, the last one{' '}
                <When at={lastAt} zone={here.course.timeZone} />.
              </>
            )}
            {waiting > 0 && (
              <>
                {' '}
                {waiting.toLocaleString('en-US')} wait: <Link to={`/c/${here.id}/course/data`}>say what they mean</Link>
                .
              </>
            )}
          </p>
        </div>
      ))}
    </section>
  );
}

const counted = ({ people, items, grades }: Pulled): string =>
  [
    `${plural(people.new, 'new person', 'new people')}, ${people.changed} changed, ${people.gone} gone`,
    `${plural(items.new, 'new item')}, ${items.changed} changed`,
    `${plural(grades.new, 'new grade')}, ${grades.changed} changed`,
  ].join(' · ');

function Source({ here, source }: { readonly here: CourseHere; readonly source: SourceCard }) {
  const [busy, setBusy] = useState(false);
  const [asking, setAsking] = useState(false);
  const { last } = source;
  const run = async () => {
    setBusy(true);
    await attempt(async () => {
      const pulled = await ask(contract.connections.pull, { course: here.id, source: source.id });
      if (pulled.trouble) toast.error(`${source.name} sent nothing: ${pulled.trouble.message}.`);
      else toast(`${source.name} sent everything that Zest Bell asked for.`);
      await refreshAll();
    });
    setBusy(false);
  };
  const end = () =>
    attempt(async () => {
      await ask(contract.connections.disconnect, { course: here.id, source: source.id });
      setAsking(false);
      toast(`Disconnected ${source.name}. What it sent stays.`);
      await refreshAll();
    });
  return (
    <section aria-label={source.name} className={CARD}>
      <div className="flex flex-wrap items-start gap-3">
        <div className="min-w-0 flex-1">
          <h2 className="text-[18px] font-bold break-words first-letter:uppercase">{source.name}</h2>
          {source.of !== '' && <p className="text-[14px] break-all text-ink-2">Class {source.of}</p>}
        </div>
        <Button needs="data.write" busy={busy} onClick={() => run()}>
          Ask it now
        </Button>
        <Button needs="data.write" onClick={() => setAsking(true)}>
          Disconnect …
        </Button>
      </div>
      {last?.trouble && (
        <p role="alert" className="mt-2 font-semibold text-tangerine-text">
          ▲ It sent nothing the last time: {last.trouble.message}. Zest Bell asks again{' '}
          <When at={Date.parse(last.trouble.tryAgainAt)} zone={ZONE} />.
        </p>
      )}
      <p className="mt-2 text-[15px] text-ink-2">
        {source.heardAt === null ? (
          'It has not sent anything yet. '
        ) : (
          <>
            It last sent everything <When at={source.heardAt} zone={ZONE} />.{' '}
          </>
        )}
        Next time: <When at={source.nextAt} zone={ZONE} />.
      </p>
      {last && !last.trouble && <p className="mt-1 text-[15px]">{counted(last)}</p>}
      {last && last.refused.length > 0 && (
        <details className="mt-2">
          <summary className="font-semibold">{plural(source.refused, 'entry', 'entries')} refused</summary>
          {source.refused > last.refused.length && (
            <p className="text-[14px] text-ink-2">The first {last.refused.length} of them are shown.</p>
          )}
          <PlainTable
            label={`What ${source.name} sent that could not be used`}
            columns={[{ name: 'What' }, { name: 'Its id' }, { name: 'Why' }]}
            rows={last.refused.map((r, i) => ({ key: String(i), head: r.what, cells: [r.id, r.message] }))}
          />
        </details>
      )}
      <Dialog
        open={asking}
        onClose={() => setAsking(false)}
        title={`Disconnect ${source.name}?`}
        note="People, items and grades that it sent stay. Zest Bell does not ask it again."
        foot={
          <Button look="main" onClick={() => end()}>
            Disconnect
          </Button>
        }
      >
        <p className="px-6 py-4 text-[15px]">Rules that need newer data wait until another source brings it.</p>
      </Dialog>
    </section>
  );
}

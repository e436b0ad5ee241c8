/** Bringing data in: the door, how fresh each source is, files so far, and the ways in which a platform feeds the course. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { Link } from 'react-router';
import { plural } from '@zest-bell/core/time';
import type { DataAnswer, ImportCard } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { ask, linkTo } from '../../../lib/api.ts';
import { attempt } from '../../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../../lib/here.ts';
import { refreshAll } from '../../../lib/queries.ts';
import { DueDates } from '../../../parts/setUp/DueDates.tsx';
import { CourseTabPage } from '../CourseTabPage.tsx';
import { Button } from '../../../ui/Button.tsx';
import { Chip } from '../../../ui/Chip.tsx';
import { Check } from '../../../ui/fields.tsx';
import { Failed, Loading } from '../../../parts/common/States.tsx';
import { When } from '../../../ui/When.tsx';
import { dataQuery, ImportDoor } from '../../../parts/files/ImportDoor.tsx';
import { KIND_WORDS } from '../../../parts/files/kindWords.ts';
import { Verbs } from '../../../parts/files/Verbs.tsx';
import { WaitingStatements } from './WaitingStatements.tsx';

export function DataPage() {
  const here = useHere();
  const data = useQuery(dataQuery(here.id));
  return (
    <CourseTabPage here={here} tab="/data">
      <div className="grid gap-4 min-[980px]:grid-cols-[minmax(0,1.7fr)_minmax(0,1fr)]">
        <div className="grid min-w-0 content-start gap-4">
          <ImportDoor here={here} />
          <DueDates here={here} />
          {data.data && data.data.waiting > 0 && <WaitingStatements here={here} />}
          {data.data && <Past here={here} data={data.data} />}
        </div>
        {data.isError ? (
          <Failed error={data.error} retry={() => void data.refetch()} />
        ) : data.data ? (
          <div className="grid content-start gap-4">
            <Sources here={here} data={data.data} />
            <Platform here={here} data={data.data} />
            <Folder here={here} data={data.data} />
          </div>
        ) : (
          <Loading what="the sources" />
        )}
      </div>
    </CourseTabPage>
  );
}

const SOURCE_WORDS = { activity: 'Activity', grades: 'Grades', attendance: 'Attendance', roster: 'Roster' } as const;

function Sources({ here, data }: { readonly here: CourseHere; readonly data: DataAnswer }) {
  return (
    <section aria-label="How fresh the data is" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">How fresh the data is</h2>
      <dl className="mt-1">
        {data.sources.map((s) => (
          <div
            key={s.source}
            className="grid grid-cols-[6.5rem_1fr] gap-x-3 border-b border-line py-1.5 last:border-b-0"
          >
            <dt className="font-semibold">{SOURCE_WORDS[s.source]}</dt>
            <dd className="text-[14px] text-ink-2">
              {s.heardAt === null ? 'nothing yet' : <When at={s.heardAt} zone={here.course.timeZone} />}
              {s.stale && <span className="block font-semibold text-tangerine-text">▲ older than the limit</span>}
              <span className="block text-[13px] text-ink-3">
                {s.rules === 0
                  ? 'no rule that is on needs it'
                  : `${plural(s.rules, 'rule')} ${s.rules === 1 ? 'needs' : 'need'} it`}
              </span>
            </dd>
          </div>
        ))}
      </dl>
      <p className="mt-2 text-[13.5px] text-ink-2">
        A rule waits only for the data that it needs. Set the age limit under{' '}
        <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course`}>
          Limits and sender
        </Link>
        .
      </p>
    </section>
  );
}

function Past({ here, data }: { readonly here: CourseHere; readonly data: DataAnswer }) {
  const past = data.imports.filter((i) => i.state !== 'open');
  if (past.length === 0) return null;
  return (
    <section aria-label="Files so far" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Files so far</h2>
      <ul>
        {past.map((card) => (
          <PastFile key={card.id} here={here} card={card} />
        ))}
      </ul>
      <p className="mt-2 text-[14px]">
        <Link className="font-semibold text-pine underline underline-offset-4" to={`/c/${here.id}/course/changes`}>
          See each change, and undo it
        </Link>
      </p>
    </section>
  );
}

function PastFile({ here, card }: { readonly here: CourseHere; readonly card: ImportCard }) {
  const { counts } = card;
  return (
    <li className="border-b border-line py-2 last:border-b-0">
      <span className="flex flex-wrap items-baseline gap-x-3">
        <strong className="min-w-0 flex-1 basis-56 truncate">{card.name}</strong>
        {card.undone && <Chip tone="quiet">undone</Chip>}
        {card.way === 'folder' && <Chip tone="iris">from the folder</Chip>}
        <span className="text-[13.5px] text-ink-2">
          <When at={card.at} zone={here.course.timeZone} />
        </span>
      </span>
      {card.trouble !== null ? (
        <span className="text-[14px] text-tangerine-text">▲ {card.trouble}</span>
      ) : (
        counts && (
          <span className="text-[14px] text-ink-2">
            {card.kind && KIND_WORDS[card.kind].name}: {counts.new} new, {counts.changed} changed, {counts.same} the
            same
            {counts.refused > 0 && (
              <>
                ,{' '}
                <a
                  className="font-semibold text-pine underline underline-offset-4"
                  download
                  href={linkTo(contract.intake.refused, { course: here.id, import: card.id })}
                >
                  download {plural(counts.refused, 'refused row')}
                </a>
              </>
            )}
          </span>
        )
      )}
    </li>
  );
}

function Platform({ here, data }: { readonly here: CourseHere; readonly data: DataAnswer }) {
  const [secret, setSecret] = useState<{ readonly of: 'activity' | 'statements'; readonly secret: string } | null>(
    null,
  );
  const make = async (of: 'activity' | 'statements') => {
    const answer = await attempt(() => ask(contract.intake.secret, { course: here.id }, { body: { of } }));
    if (!answer) return;
    setSecret({ of, ...answer });
    await refreshAll();
    toast('You have a new secret. The old one no longer works.');
  };
  const line = 'font-num text-[13px] break-all';
  return (
    <section aria-label="Data from a platform" className="grid gap-2 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Data from a platform</h2>
      <p className="text-[14px] text-ink-2">
        Give these to the person who runs your learning platform. A secret is shown once.
      </p>
      <p className="text-[14px]">
        <strong className="block">xAPI statements</strong>
        <span className={line}>{`${window.location.origin}${data.endpoint.path.replace(/\/statements$/, '')}`}</span>
        <span className="block text-ink-2">
          Key <span className={line}>{data.endpoint.key}</span>
        </span>
        <Button needs="tokens.write" look="quiet" onClick={() => make('statements')}>
          {data.endpoint.hasSecret ? 'Make a new secret' : 'Make a secret'}
        </Button>
      </p>
      <p className="text-[14px]">
        <strong className="block">Zest Bell’s own activity route</strong>
        <span className={line}>{`${window.location.origin}${linkTo(contract.intake.activity, {})}`}</span>
        <br />
        <Button needs="tokens.write" look="quiet" onClick={() => make('activity')}>
          Make a new token
        </Button>
      </p>
      <Verbs here={here} />
      {secret && (
        <p role="status" className="rounded-xl bg-zest-soft px-4 py-2.5 text-[14px]">
          {secret.of === 'statements' ? 'Secret' : 'Token'}: <span className={line}>{secret.secret}</span>
          <br />
          Copy it now. It is not shown again.
        </p>
      )}
    </section>
  );
}

function Folder({ here, data }: { readonly here: CourseHere; readonly data: DataAnswer }) {
  const set = async (watched: boolean) => {
    await attempt(() => ask(contract.intake.folder, { course: here.id }, { body: { watched } }));
    await refreshAll();
  };
  return (
    <section
      aria-label="A folder on the server"
      className="grid gap-2 rounded-[16px] border border-line bg-sheet px-5 py-4"
    >
      <h2 className="text-[18px] font-bold">A folder on the server</h2>
      <Check
        label="Take files from this folder as they appear"
        checked={data.folder.watched}
        onChange={(on) => void set(on)}
      />
      <p className="font-num text-[13px] break-all text-ink-2">{data.folder.path}</p>
      <p className="text-[14px] text-ink-2">
        It is in Zest Bell’s data folder, for exports that another program writes overnight. Files that were taken move to “done”, others to “refused” with the reason.
      </p>
    </section>
  );
}

/** The course's own limits over all its rules, with what a change would have done in the last four weeks; the mail switch. */
import { useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import type { Problem } from '@zest-bell/core/problem';
import { parseCourseLimits, type CourseLimits } from '@zest-bell/core/rounds';
import { contract } from '@zest-bell/core/contract';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { refreshAll, useStanding } from '../../lib/queries.ts';
import { useWhy, WhyField } from '../../parts/common/WhyField.tsx';
import { Button } from '../../ui/Button.tsx';
import { Failed } from '../../parts/common/States.tsx';
import { useFormOf } from '../../lib/useFormOf.ts';
import { When } from '../../ui/When.tsx';
import { useSettled } from '../../ui/useSettled.ts';
import { ArchiveCard } from './ArchiveCard.tsx';
import { OutCard } from './OutCard.tsx';
import { CourseTabPage } from './CourseTabPage.tsx';
import { Effect } from './Effect.tsx';
import { LIMIT_PARTS, LimitFields } from './LimitFields.tsx';
import { LimitsMeanwhile } from './LimitsMeanwhile.tsx';
import { MailSwitch } from './MailSwitch.tsx';
import { OwnSenderCard } from './OwnSenderCard.tsx';
import { AskSilence, newSilences } from '../../parts/editing/AskSilence.tsx';
import { SenderCard } from '../../parts/setUp/SenderCard.tsx';

const SECTIONS = [...LIMIT_PARTS, ['sender', 'Sender'], ['out', 'Export and archive']] as const;

export function CoursePage() {
  const here = useHere();
  return (
    <CourseTabPage
      here={here}
      tab=""
      filters={
        <nav aria-label="On this page" className="flex flex-wrap gap-x-4 gap-y-1 text-[14px]">
          {SECTIONS.map(([anchor, name]) => (
            <a key={anchor} href={`#${anchor}`} className="font-semibold text-pine underline-offset-4 hover:underline">
              {name}
            </a>
          ))}
        </nav>
      }
    >
      <Limits key={here.id} here={here} />
      <div id="sender" tabIndex={-1} className="scroll-mt-4 outline-none">
        <SenderCard key={here.id} here={here} />
      </div>
      {here.may('nudges.decide') && <OwnSenderCard key={`own ${here.id}`} here={here} />}
      <div id="out" tabIndex={-1} className="mt-4 scroll-mt-4 outline-none">
        <OutCard here={here} />
      </div>
      <ArchiveCard here={here} />
    </CourseTabPage>
  );
}

function Limits({ here }: { readonly here: CourseHere }) {
  const { settings, breaks, marks, guards, settingsVersion } = here.answer;
  const saved: CourseLimits = { settings, breaks, marks, guards };
  const form = useFormOf<CourseLimits>(`limits ${here.id}`, saved, settingsVersion);
  const { value: limits, set: setLimits, dirty, drop, version, begunFrom } = form;
  const [refused, setRefused] = useState<readonly Problem[]>([]);
  const [busy, setBusy] = useState(false);
  const standing = useStanding(here.id);
  const parsed = parseCourseLimits(limits);
  const silences = newSilences(here, limits);
  const [isSilent, setSilent] = useState(false);
  const why = useWhy(here.id);
  const problems = [...(parsed.ok ? [] : parsed.problems), ...refused];
  const settled = useSettled(limits, 400);
  const effect = useQuery({
    queryKey: ['limits', here.id, JSON.stringify(settled), here.now],
    queryFn: ({ signal }) =>
      ask(contract.course.limitsEffect, { course: here.id }, { body: { limits: settled }, signal }),
    enabled: parseCourseLimits(settled).ok,
    placeholderData: keepPreviousData,
  });
  const change = (next: CourseLimits) => {
    setRefused([]);
    setSilent(false);
    setLimits(next);
  };
  const save = async () => {
    setBusy(true);
    try {
      await ask(contract.course.limits, { course: here.id }, { body: { limits, version, why: why.value } });
      drop();
      why.drop();
      toast('Saved. These limits now apply to every rule of this course.');
      await refreshAll();
    } catch (error) {
      const named = error instanceof ApiProblem ? error.problems : [];
      setRefused(named.map((p) => ({ ...p, path: p.path.replace(/^limits\./, '') })));
      toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <section aria-label="Mail and data" className="grid gap-2 rounded-[16px] border border-line bg-sheet px-5 py-4">
        {standing.data ? (
          <>
            <MailSwitch here={here} standing={standing.data} />
            <p className="text-[14px] text-ink-2">
              {standing.data.feed.heardAt === null ? (
                'The learning platform has not sent any data yet.'
              ) : (
                <>
                  The learning platform last sent data{' '}
                  <When at={standing.data.feed.heardAt} zone={here.course.timeZone} />.
                </>
              )}
              {standing.data.feed.stale &&
                ' That is older than the limit below, so rules and mail are waiting for new data.'}
            </p>
          </>
        ) : (
          <p className="text-ink-3">Checking mail …</p>
        )}
      </section>
      <div className="mt-4 grid gap-4 min-[980px]:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <section aria-label="Limits" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
          {begunFrom && <LimitsMeanwhile here={here} form={form} base={begunFrom} saved={saved} />}
          <LimitFields here={here} limits={limits} problems={problems} onChange={change} />
          {dirty ? (
            <div className="sticky bottom-(--dock) mt-4 grid gap-3 border-t border-line bg-sheet py-3">
              {here.may('settings.write') && <WhyField why={why.value} onChange={why.set} />}
              <AskSilence silences={silences} yes={isSilent} onYes={setSilent} />
              <div className="flex items-center gap-3">
                <Button
                  needs="settings.write"
                  look="main"
                  busy={busy}
                  disabled={!parsed.ok || (silences.length > 0 && !isSilent)}
                  onClick={() => save()}
                >
                  Save limits
                </Button>
                <Button onClick={drop}>Discard changes</Button>
                {!parsed.ok && <span className="text-[14px] text-tangerine-text">▲ Fix the marked fields first.</span>}
              </div>
            </div>
          ) : (
            <p className="mt-4 text-[14px] text-ink-3">These limits are saved, and apply to every rule.</p>
          )}
        </section>
        <section
          aria-label="What these limits would have changed"
          className="self-start rounded-[16px] border border-line bg-sheet px-5 py-4"
        >
          <h2 className="text-[18px] font-bold">The last four weeks</h2>
          {effect.isError ? (
            <Failed error={effect.error} retry={() => void effect.refetch()} />
          ) : effect.data ? (
            <Effect here={here} effect={effect.data} dirty={dirty} />
          ) : (
            <p className="mt-2 text-ink-3">Replaying the rules that are on …</p>
          )}
        </section>
      </div>
    </>
  );
}

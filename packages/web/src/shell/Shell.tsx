/** The frame around every page: which course is shown, as of when, and the keys that work anywhere. */
import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, Outlet, useNavigate, useNavigation, useParams } from 'react-router';
import { AllowedContext, type PermissionCheck } from '../ui/Allowed.tsx';
import { instantWords } from '@zest-bell/core/time';
import { ApiProblem } from '../lib/api.ts';
import { StandingBanner } from '../places/course/StandingBanner.tsx';
import type { CourseHere } from '../lib/here.ts';
import { Empty, Failed, Loading } from '../parts/common/States.tsx';
import { PLACES } from '../lib/places.ts';
import { useClock, useCourse, useCourses, useSession, queryClient } from '../lib/queries.ts';
import { Shortcuts } from './Shortcuts.tsx';
import { TermStrip } from './TermStrip.tsx';
import { BottomBar } from './BottomBar.tsx';
import { TopBar } from './TopBar.tsx';
import { Tour } from './Tour.tsx';
import { useMoment } from '../lib/useMoment.ts';
import { PAGE, usePageFocus } from '../lib/usePageFocus.ts';

const DelayDialog = lazy(async () => ({ default: (await import('./DelayDialog.tsx')).DelayDialog }));
const CountsPage = lazy(async () => ({ default: (await import('../places/counts/CountsPage.tsx')).CountsPage }));
const Palette = lazy(async () => ({ default: (await import('./Palette.tsx')).Palette }));

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** An address of a course that is not there, or not theirs: which ones are. */
function NoCourse() {
  const courses = useCourses().data ?? [];
  return (
    <Empty title="This course does not exist, or you have no access to it">
      {courses.length === 0 ? (
        <Link className="font-semibold text-pine underline" to="/">
          Back to the start
        </Link>
      ) : (
        <>
          <p>Your courses:</p>
          <ul className="mt-2 grid gap-1">
            {courses.map((c) => (
              <li key={c.id}>
                <Link className="font-semibold text-pine underline" to={`/c/${c.id}/today`}>
                  {c.code} {c.title}
                </Link>
              </li>
            ))}
          </ul>
        </>
      )}
    </Empty>
  );
}

/** A course for anyone who may see people in it, and its counts for those who may not. */
export function Shell() {
  const id = Number(useParams()['course']);
  const session = useSession();
  const mine = session.data?.courses.find((c) => c.id === id);
  // A course that was begun since, or given by somebody else: what one may there is asked for first.
  const isUnknown = session.data !== undefined && mine === undefined;
  const [asked, setAsked] = useState<number | null>(null);
  const { refetch } = session;
  useEffect(() => {
    if (isUnknown && asked !== id) void refetch().then(() => setAsked(id));
  }, [isUnknown, asked, id, refetch]);
  if (isUnknown && asked !== id) return <Loading what="the course" />;
  if (mine && !mine.may.includes('course.read'))
    return (
      <Suspense fallback={<Loading what="the course" />}>
        <CountsPage course={id} key={id} />
      </Suspense>
    );
  return <WholeCourse />;
}

function WholeCourse() {
  const id = Number(useParams()['course']);
  const course = useCourse(id);
  const clock = useClock();
  const session = useSession();
  const moment = useMoment(id, clock.data);
  const navigate = useNavigate();
  const isLeaving = useNavigation().state !== 'idle';
  const [palette, setPalette] = useState(false);
  const [shortcuts, setShortcuts] = useState(false);
  const [delay, setDelay] = useState(false);
  usePageFocus();

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
        e.preventDefault();
        setPalette((open) => !open);
        return;
      }
      if (e.ctrlKey || e.metaKey || e.altKey || typing(e.target) || document.querySelector('[role=dialog]')) return;
      const place = PLACES[Number(e.key) - 1];
      if (place) void navigate(`/c/${id}/${place.path}`);
      else if (e.key === '?') setShortcuts(true);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [id, navigate]);

  // A session that ended elsewhere leads back to the sign-in page.
  const gone = [course.error, clock.error].some((e) => e instanceof ApiProblem && e.status === 401);
  useEffect(() => {
    if (gone) void queryClient.invalidateQueries({ queryKey: ['session'] });
  }, [gone]);

  if (course.error instanceof ApiProblem && course.error.status === 404) return <NoCourse />;
  if (course.isError) return <Failed error={course.error} retry={() => void course.refetch()} />;
  if (clock.isError) return <Failed error={clock.error} retry={() => void clock.refetch()} />;
  if (!course.view || !clock.data || !moment) return <Loading what="the course" />;
  const mine = new Set(session.data?.courses.find((c) => c.id === id)?.may);
  const here: CourseHere = { ...course.view, now: moment.now, demo: clock.data.demo, may: (c) => mine.has(c) };
  return (
    <AllowedContext value={here.may as PermissionCheck}>
      <div className="shell flex min-h-full flex-col pb-(--dock) max-[759px]:pb-[calc(4rem+var(--dock,0px))]">
        <a
          href={`#${PAGE}`}
          className="absolute -top-20 left-4 z-50 rounded-b-lg bg-zest px-4 py-2 font-bold text-[#14211d] focus:top-0"
        >
          Skip to content
        </a>
        <TopBar
          here={here}
          clock={clock.data}
          account={session.data?.account?.name ?? ''}
          onPalette={() => setPalette(true)}
          onShortcuts={() => setShortcuts(true)}
          isAdministrator={session.data?.account?.isAdministrator ?? false}
          onDelay={() => setDelay(true)}
        />
        <TermStrip here={here} />
        <StandingBanner here={here} />
        {moment.hasNews && (
          <p role="status" className="border-b border-line bg-sheet px-5 py-1.5 text-[14.5px]" data-testid="news">
            New data has come in since {instantWords(moment.now, here.course.timeZone)}.{' '}
            <button className="font-semibold text-pine underline underline-offset-4" onClick={moment.update}>
              Show the latest
            </button>
          </p>
        )}
        <Tour here={here} />
        <main
          id={PAGE}
          tabIndex={-1}
          aria-busy={isLeaving || undefined}
          className="flex min-h-0 flex-1 flex-col outline-none"
        >
          <Outlet context={here} />
        </main>
        <BottomBar here={here} />
        {palette && (
          <Suspense>
            <Palette open onClose={() => setPalette(false)} here={here} onShortcuts={() => setShortcuts(true)} />
          </Suspense>
        )}
        {delay && session.data?.account && (
          <Suspense>
            <DelayDialog seconds={session.data.account.sendDelay} onClose={() => setDelay(false)} />
          </Suspense>
        )}
        <Shortcuts open={shortcuts} onClose={() => setShortcuts(false)} demo={here.demo} />
      </div>
    </AllowedContext>
  );
}

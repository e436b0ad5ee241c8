/** On every place while the course does not ring or send as it should: what is the matter, and where to mend it. */
import { Link } from 'react-router';
import { plural } from '@zest-bell/core';
import type { Here } from '../app/here.ts';
import { useStanding } from '../app/queries.ts';
import { When } from '../ui/When.tsx';

export function StandingBanner({ here }: { readonly here: Here }) {
  const { data } = useStanding(here.id);
  if (!data) return null;
  const zone = here.course.timeZone;
  const lines = [
    data.stopped && (
      <>
        All mail of this course is stopped since <When at={data.stopped.at} zone={zone} />.{' '}
        <To path={`/c/${here.id}/course`}>Start it again</To>
      </>
    ),
    data.feed.stale && (
      <>
        Rounds and mail are held: the learning platform has told nothing
        {data.feed.heardAt !== null && (
          <>
            {' '}
            since <When at={data.feed.heardAt} zone={zone} />
          </>
        )}
        , and who is present may look absent. <To path={`/c/${here.id}/course`}>See the limit</To>
      </>
    ),
    data.troubles.length > 0 && (
      <>
        The rounds of {plural(data.troubles.length, 'rule')} could not be held. Nothing was sent for them.{' '}
        <To path={`/c/${here.id}/today`}>What to do</To>
      </>
    ),
  ].filter(Boolean);
  if (lines.length === 0) return null;
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

const To = ({ path, children }: { readonly path: string; readonly children: string }) => (
  <Link to={path} className="font-semibold underline underline-offset-4">
    {children}
  </Link>
);

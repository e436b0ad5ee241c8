/** What waits in a course that one does not stand in, each kind with the way to it. */
import { Link } from 'react-router';
import { INBOX_KINDS, inboxLine, type InboxCourse } from '@zest-bell/core/exchange';
import { INBOX_PLACES } from './inboxPlaces.ts';

export function OtherCourse({ course: c }: { readonly course: InboxCourse }) {
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-0.5 border-b border-line py-2.5 last:border-b-0">
      <Link to={`/c/${c.course}/today`} title={c.title} className="font-bold underline-offset-4 hover:underline">
        {c.code}
      </Link>
      {INBOX_KINDS.filter((kind) => c[kind] > 0).map((kind) => (
        <Link
          key={kind}
          to={`/c/${c.course}/${INBOX_PLACES[kind]}`}
          className="text-[14.5px] underline decoration-line-strong underline-offset-4 hover:decoration-ink"
        >
          {inboxLine(kind, c[kind])}
        </Link>
      ))}
    </li>
  );
}

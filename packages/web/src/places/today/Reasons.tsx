/** Why others changed what runs here in the last week, in their own words. */
import { Link } from 'react-router';
import type { ReasonLine } from '@zest-bell/core/exchange';
import { reasonAbout } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { When } from '../../ui/When.tsx';
import { Card } from './Card.tsx';

const placeOf = ({ what, of }: ReasonLine): string =>
  ({ rule: `rules/${of}/history`, wording: `wording?wording=${of}`, limits: 'course' })[what];

export function Reasons({ here, reasons }: { readonly here: CourseHere; readonly reasons: readonly ReasonLine[] }) {
  if (reasons.length === 0) return null;
  return (
    <Card title="Your colleagues changed" count={reasons.length}>
      <ul className="mt-1">
        {reasons.map((r) => (
          <li key={r.id} className="border-b border-line py-2 last:border-b-0">
            <Link
              className="font-semibold text-pine underline-offset-4 hover:underline"
              to={`/c/${here.id}/${placeOf(r)}`}
            >
              {reasonAbout(r)}
            </Link>
            <span className="block break-words">“{r.words}”</span>
            <span className="block text-[14px] text-ink-2">
              {r.by}, <When at={r.at} zone={here.course.timeZone} />
            </span>
          </li>
        ))}
      </ul>
    </Card>
  );
}

/** Who replied: the reply itself, and the way to the nudge it answers. */
import { Link } from 'react-router';
import type { TodayAnswer } from '@zest-bell/core';
import type { Here } from '../app/here.ts';
import { When } from '../ui/When.tsx';
import { Card } from './Card.tsx';

export function Replies({ here, today }: { readonly here: Here; readonly today: TodayAnswer }) {
  if (today.answers.length === 0) return null;
  return (
    <Card title="Who replied" count={today.answers.length}>
      <ul>
        {today.answers.map((a) => (
          <li key={`${a.nudge} ${a.at}`} className="border-b border-line py-2.5 last:border-b-0">
            <p className="flex flex-wrap items-baseline gap-x-3">
              <Link className="font-bold underline-offset-4 hover:underline" to={`/c/${here.id}/log?nudge=${a.nudge}`}>
                {a.name}
              </Link>
              <span className="text-[14px] text-ink-2">
                <When at={a.at} zone={here.course.timeZone} />
              </span>
            </p>
            <p className="line-clamp-2 text-[14.5px]">“{a.text}”</p>
          </li>
        ))}
      </ul>
    </Card>
  );
}

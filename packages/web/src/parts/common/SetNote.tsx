/** That other courses have the same rule or wording, and whether one differs: leads to all of them. */
import { Link } from 'react-router';
import type { SetKind } from '@zest-bell/core/exchange';
import { setPath, setWords, useSetCard } from '../../lib/sets.ts';
import { Chip } from '../../ui/Chip.tsx';

export function SetNote({
  course,
  kind,
  of,
  beside = false,
}: {
  readonly course: number;
  readonly kind: SetKind;
  readonly of: string;
  /** On the line of a name, rather than below it. */
  readonly beside?: boolean;
}) {
  const card = useSetCard(course, kind, of);
  if (!card) return null;
  return (
    <span
      className={`flex items-center gap-x-3 text-ink-2 ${beside ? 'font-body text-[13px] font-normal whitespace-nowrap' : 'mt-1 flex-wrap text-[14px]'}`}
    >
      <Link to={setPath(course, kind, of)} className="font-semibold text-pine underline-offset-4 hover:underline">
        {setWords(card).replace(/^i/, 'I')}
      </Link>
      {card.waitsFrom && <Chip tone="iris">a change from {card.waitsFrom} is waiting for you</Chip>}
    </span>
  );
}

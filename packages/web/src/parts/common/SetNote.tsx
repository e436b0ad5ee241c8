/** That other courses have the same rule or wording, and whether one differs: leads to all of them. */
import { Link } from 'react-router';
import type { SetKind } from '@zest-bell/core/exchange';
import { setPath, setWords, useSetCard } from '../../lib/sets.ts';
import { Chip } from '../../ui/Chip.tsx';

export function SetNote({
  course,
  kind,
  of,
}: {
  readonly course: number;
  readonly kind: SetKind;
  readonly of: string;
}) {
  const card = useSetCard(course, kind, of);
  if (!card) return null;
  return (
    <p className="mt-1 flex flex-wrap items-center gap-x-3 text-[14px] text-ink-2">
      <Link to={setPath(course, kind, of)} className="font-semibold text-pine underline-offset-4 hover:underline">
        {setWords(card).replace(/^i/, 'I')}
      </Link>
      {card.waitsFrom && <Chip tone="iris">a change from {card.waitsFrom} is waiting for you</Chip>}
    </p>
  );
}

/** Shows that somebody saved a thing while the user had a draft of it: who, what they changed, and where both did. */
import { useQuery } from '@tanstack/react-query';
import { contract, type QueryGiven } from '@zest-bell/core/contract';
import { listWords } from '@zest-bell/core/time';
import { ask } from '../../lib/api.ts';
import { Button } from '../../ui/Button.tsx';

export interface MeanwhileProps {
  /** Null while it is not known. */
  readonly who: string | null;
  /** “rule”, “limits”. */
  readonly what: string;
  /** Titles of what they changed alone. */
  readonly theirs: readonly string[];
  /** What both changed: its title, and what it says as they saved it. */
  readonly both: readonly { readonly title: string; readonly words: string }[];
  /** Goes on with the draft, with what was saved in it. */
  readonly onMerged: () => void;
  readonly onDrop: () => void;
}

const titled = (titles: readonly string[]): string => listWords(titles.map((t) => `“${t}”`));

export function Meanwhile({ who, what, theirs, both, onMerged, onDrop }: MeanwhileProps) {
  return (
    <div role="alert" className="mt-3 rounded-xl border border-line bg-sheet p-4">
      <p className="font-semibold">
        {who ?? 'Someone'} changed {what.endsWith('s') ? 'these' : 'this'} {what} after you began. Your draft is kept.
      </p>
      {theirs.length > 0 && (
        <p className="mt-1">They changed {titled(theirs)}, which you did not. Your draft can include that change.</p>
      )}
      {both.length > 0 && (
        <>
          <p className="mt-1">Both of you changed {titled(both.map((b) => b.title))}. Your draft keeps yours.</p>
          <ul className="mt-1 list-disc pl-5 text-[14px] text-ink-2">
            {both.map(({ title, words }) => (
              <li key={title} className="whitespace-pre-line">
                {title}, as they saved it: {words || 'other than yours'}
              </li>
            ))}
          </ul>
        </>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        <Button onClick={onMerged}>
          {theirs.length > 0 ? 'Continue with both changes' : 'Continue with my draft'}
        </Button>
        <Button onClick={onDrop}>Use the saved {what}</Button>
      </div>
    </div>
  );
}

/** Who saved it last, by the log of what was done. */
export function useLastChange(
  course: number,
  what: QueryGiven<typeof contract.people.lastChange>['what'],
  of?: string,
): string | null {
  const query = useQuery({
    queryKey: ['lastChange', course, what, of],
    queryFn: () =>
      ask(contract.people.lastChange, { course }, { query: { what, ...(of === undefined ? {} : { of }) } }),
    staleTime: 0,
  });
  return query.data?.by ?? null;
}

/** While a platform tells for the first time who is in a course: the page shows it once it is there. */
import { useEffect, useRef } from 'react';
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';

export function FirstTold({ here }: { readonly here: CourseHere }) {
  const sources = useQuery({
    queryKey: ['sources', here.id],
    queryFn: () => ask(contract.connections.sources, { course: here.id }),
    refetchInterval: ({ state }) => (state.data?.some((s) => s.last === null) ? 1000 : false),
  });
  const waits = sources.data?.some((s) => s.last === null && s.kind === 'lti') ?? false;
  const waited = useRef(false);
  useEffect(() => {
    if (waited.current && !waits) void refreshAll();
    waited.current = waits;
  }, [waits]);
  if (!waits) return null;
  return (
    <p role="status" className="rounded-[16px] border border-line bg-sheet px-5 py-3 text-[15px] text-ink-2">
      Your learning platform is telling Zest Bell who is in this course …
    </p>
  );
}

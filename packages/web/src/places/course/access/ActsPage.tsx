/** Who did what in the course, when and from where. */
import { useInfiniteQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { contract } from '@zest-bell/core/contract';
import { ask, linkTo } from '../../../lib/api.ts';
import { useHere } from '../../../lib/here.ts';
import { ActsTable } from '../../../parts/common/ActsTable.tsx';
import { CourseTabPage } from '../CourseTabPage.tsx';

export function ActsPage() {
  const here = useHere();
  const [by, setBy] = useState('');
  const acts = useInfiniteQuery({
    queryKey: ['acts', here.id, by],
    queryFn: ({ pageParam }) =>
      ask(contract.people.acts, { course: here.id }, { query: { after: pageParam || undefined, by: by || undefined } }),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next ?? undefined,
  });
  const file = `${linkTo(contract.people.actsFile, { course: here.id })}${by ? `?by=${encodeURIComponent(by)}` : ''}`;
  return (
    <CourseTabPage here={here} tab="/acts">
      <ActsTable acts={acts} by={by} onBy={setBy} zone={here.course.timeZone} file={file} />
    </CourseTabPage>
  );
}

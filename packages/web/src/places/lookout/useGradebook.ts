import { useQuery } from '@tanstack/react-query';
import type { Instant } from '@zest-bell/core/time';
import { Gradebook } from '@zest-bell/core/lookout';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';

/** The gradebook as of an instant; asked once a moment, as columns. */
export const useGradebook = (here: CourseHere, at: Instant) =>
  useQuery({
    queryKey: ['gradebook', here.id, here.answer.version, here.now, at],
    queryFn: async () =>
      Gradebook.unpack(
        new Uint8Array(await ask.bytes(contract.desk.gradebook, { course: here.id }, { query: { at } })),
      ),
    staleTime: Infinity,
  });

import { useQuery } from '@tanstack/react-query';
import { Gradebook, type Instant } from '@zest-bell/core';
import { api } from '../app/api.ts';
import type { Here } from '../app/here.ts';

/** The gradebook as of an instant; asked once a moment, as columns. */
export const useGradebook = (here: Here, at: Instant) =>
  useQuery({
    queryKey: ['gradebook', here.id, here.answer.version, here.now, at],
    queryFn: async () =>
      Gradebook.unpack(new Uint8Array(await api.bytes(`/courses/${here.id}/lookout/gradebook?at=${at}`))),
    staleTime: Infinity,
  });

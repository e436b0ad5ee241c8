import { useQuery } from '@tanstack/react-query';
import type { InboxAnswer } from '@zest-bell/core';
import { api } from '../app/api.ts';

/** What waits over all courses of the signed-in person. */
export const useInbox = () =>
  useQuery({ queryKey: ['inbox'], queryFn: () => api.get<InboxAnswer>('/inbox'), staleTime: 0 });

import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import { ask } from './api.ts';

/** What waits over all courses of the signed-in person. */
export const useInbox = () => useQuery({ queryKey: ['inbox'], queryFn: () => ask(contract.desk.inbox), staleTime: 0 });

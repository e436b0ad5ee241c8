/** What who is signed in may do where they are: what they may not is not shown. */
import { createContext, useContext, type ReactNode } from 'react';

export type PermissionCheck = (needs: string) => boolean;

export const AllowedContext = createContext<PermissionCheck>(() => true);

export const useAllowed = (): PermissionCheck => useContext(AllowedContext);

export function Allowed({ needs, children }: { readonly needs: string; readonly children: ReactNode }) {
  return useAllowed()(needs) ? children : null;
}

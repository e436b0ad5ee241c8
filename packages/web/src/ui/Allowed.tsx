/** What who is signed in may do where they are: what they may not is not shown. */
import { createContext, useContext, type ReactNode } from 'react';

export type Allows = (needs: string) => boolean;

export const AllowedContext = createContext<Allows>(() => true);

export const useAllowed = (): Allows => useContext(AllowedContext);

export function Allowed({ needs, children }: { readonly needs: string; readonly children: ReactNode }) {
  return useAllowed()(needs) ? children : null;
}

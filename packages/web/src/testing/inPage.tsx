/** Shows a part as a page of a course does: with its course, its address and the questions that it asks of the server. */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import type { ReactNode } from 'react';
import { MemoryRouter, Outlet, Route, Routes, useLocation } from 'react-router';
import type { CourseHere } from '../lib/here.ts';
import './patience.ts';
import { hereOf } from './here.ts';

/** Where the page is, for tests that go somewhere. */
function Where() {
  const { pathname, search } = useLocation();
  return <output aria-label="address">{`${pathname}${search}`}</output>;
}

export function inPage(shown: ReactNode, { path = '/', here = hereOf() }: { path?: string; here?: CourseHere } = {}) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter initialEntries={[path]}>
        <Where />
        <Routes>
          <Route element={<Outlet context={here} />}>
            <Route path="*" element={shown} />
          </Route>
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}

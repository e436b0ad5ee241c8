import './lib/zodSetup.ts';
import './ui/theme.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { QueryClientProvider } from '@tanstack/react-query';
import { RouterProvider } from 'react-router';
import { queryClient, sessionQuery } from './lib/queries.ts';
import { router } from './shell/router.tsx';

// The header's clock comes last and would push the rest aside with its font: that is asked for with the page.
const figures = getComputedStyle(document.documentElement).getPropertyValue('--font-num');
document.fonts.load(`1em ${figures}`).catch(() => undefined);

void queryClient.prefetchQuery(sessionQuery);

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queryClient}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);

import './lib/zodSetup.ts';
import './ui/theme.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { QueryClientProvider } from '@tanstack/react-query';
import { RouterProvider } from 'react-router';
import { queryClient } from './lib/queries.ts';
import { router } from './shell/router.tsx';

// The header's figures come after what they count and would push it aside: their font is asked for with the page.
document.fonts.load("1em 'Atkinson Hyperlegible Mono Variable'").catch(() => undefined);

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queryClient}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);

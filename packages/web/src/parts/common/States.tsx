/** What a place shows while it has nothing else to show: loading, empty, failed. */
import type { ReactNode } from 'react';
import { errorWords } from '../../lib/api.ts';
import { Button } from '../../ui/Button.tsx';

export function Loading({ what }: { readonly what: string }) {
  return (
    <p role="status" data-loading className="p-8 text-ink-3">
      Loading {what} …
    </p>
  );
}

export function Failed({ error, retry }: { readonly error: unknown; readonly retry?: () => void }) {
  return (
    <div role="alert" className="m-6 rounded-2xl border border-line bg-sheet p-6">
      <p className="flex items-start gap-2 font-semibold">
        <span aria-hidden className="text-tangerine">
          ▲
        </span>
        {errorWords(error)}
      </p>
      {retry && (
        <Button className="mt-4" onClick={retry}>
          Try again
        </Button>
      )}
    </div>
  );
}

export function Empty({ title, children }: { readonly title: string; readonly children?: ReactNode }) {
  return (
    <div className="mx-auto max-w-md px-6 py-14 text-center">
      <h2 className="text-xl font-bold">{title}</h2>
      <div className="mt-2 text-ink-2">{children}</div>
    </div>
  );
}

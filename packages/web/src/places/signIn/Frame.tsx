/** A page of its own around one thing to do, for anyone who is not inside yet. */
import type { ReactNode } from 'react';
import { Brand } from '../../ui/Brand.tsx';

export function Frame({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <main className="grid min-h-full place-items-center px-5 py-10">
      <div className="w-full max-w-[460px]">
        <div className="mb-6 flex justify-center">
          <Brand />
        </div>
        <div className="rounded-[18px] border border-line bg-sheet p-8">
          <h1 className="text-2xl font-bold">{title}</h1>
          {children}
        </div>
      </div>
    </main>
  );
}

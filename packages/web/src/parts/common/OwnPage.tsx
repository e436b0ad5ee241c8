/** A page that is about no course: its head, and the way back. */
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { signOut } from '../../lib/signOut.ts';
import { Brand } from '../../ui/Brand.tsx';

export function OwnPage({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <>
      <header className="flex items-center gap-3 bg-sheet px-5 py-3">
        <Link to="/" aria-label="Zest Bell, to your courses">
          <Brand />
        </Link>
        <nav aria-label="You" className="ml-auto flex flex-wrap gap-4 font-semibold text-pine">
          <Link to="/">Your courses</Link>
          <Link to="/account">Your account</Link>
          <button type="button" className="font-semibold" onClick={() => void signOut()}>
            Sign out
          </button>
        </nav>
      </header>
      <main className="mx-auto w-full max-w-[980px] px-5 py-6">
        <h1 className="text-3xl font-bold">{title}</h1>
        {children}
      </main>
    </>
  );
}

/** A page that is about no course: its head, and the way back. */
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { signOut } from '../../lib/signOut.ts';
import { Brand } from '../../ui/Brand.tsx';
import { Page } from '../../ui/Page.tsx';

export function OwnPage({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <>
      <header className="flex items-center gap-3 bg-sheet px-4 py-3 min-[760px]:px-6">
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
      <main>
        <Page title={title}>
          <div className="max-w-[980px]">{children}</div>
        </Page>
      </main>
    </>
  );
}

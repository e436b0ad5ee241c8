import type { ReactNode } from 'react';
import { NavLink } from 'react-router';
import type { Here } from '../app/here.ts';
import { PlaceHead } from '../app/PlaceHead.tsx';

const TABS = [
  { path: '', name: 'Limits and sender' },
  { path: '/people', name: 'People' },
  { path: '/items', name: 'Items' },
  { path: '/calendar', name: 'Calendar' },
  { path: '/data', name: 'Bring data in' },
  { path: '/changes', name: 'Changes' },
] as const;

/** The head of every page of Course, with the way to the others. */
export function CourseTabs({ here, children }: { readonly here: Here; readonly children?: ReactNode }) {
  return (
    <>
      <PlaceHead place="course">{children}</PlaceHead>
      <nav aria-label="Pages of Course" className="mt-3 flex flex-wrap gap-x-1 gap-y-1 border-b border-line">
        {TABS.map((tab) => (
          <NavLink
            key={tab.path}
            end
            to={`/c/${here.id}/course${tab.path}`}
            className={({ isActive }) =>
              `-mb-px border-b-[3px] px-3 py-2 text-[14.5px] font-semibold whitespace-nowrap ${isActive ? 'border-zest text-ink' : 'border-transparent text-ink-2 hover:text-ink'}`
            }
          >
            {tab.name}
          </NavLink>
        ))}
      </nav>
    </>
  );
}

import { NavLink } from 'react-router';
import type { Here } from '../app/here.ts';

const TABS = [
  { path: '', name: 'Students' },
  { path: '/gradebook', name: 'Gradebook' },
  { path: '/class', name: 'Class overview' },
] as const;

/** The way between the pages of Lookout. */
export function LookoutTabs({ here }: { readonly here: Here }) {
  return (
    <nav aria-label="Pages of Lookout" className="flex gap-x-1">
      {TABS.map((tab) => (
        <NavLink
          key={tab.path}
          end
          to={`/c/${here.id}/lookout${tab.path}`}
          className={({ isActive }) =>
            `border-b-[3px] px-2.5 py-1 text-[14.5px] font-semibold whitespace-nowrap ${isActive ? 'border-zest text-ink' : 'border-transparent text-ink-2 hover:text-ink'}`
          }
        >
          {tab.name}
        </NavLink>
      ))}
    </nav>
  );
}

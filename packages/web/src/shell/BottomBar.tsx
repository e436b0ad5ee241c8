/** The places on a phone: the four that are opened most, and the rest in a menu. */
import { Link, NavLink, useLocation } from 'react-router';
import { DropdownMenu } from 'radix-ui';
import { Ellipsis, Inbox, ListChecks, ScrollText, Sunrise, type LucideIcon } from 'lucide-react';
import type { CourseHere } from '../lib/here.ts';
import { PLACES, type PlacePath } from '../lib/places.ts';

const ICONS: Partial<Readonly<Record<PlacePath, LucideIcon>>> = {
  today: Sunrise,
  rules: ListChecks,
  tray: Inbox,
  log: ScrollText,
};

const cell = 'flex flex-col items-center gap-0.5 px-1 py-1.5 text-[12px] font-semibold';

export function BottomBar({ here }: { readonly here: CourseHere }) {
  const shown = useLocation().pathname.split('/')[3];
  const rest = PLACES.filter((p) => ICONS[p.path] === undefined);
  const inMenu = rest.find((p) => p.path === shown);
  return (
    <nav
      aria-label="Places"
      className="fixed inset-x-0 bottom-0 z-30 grid grid-cols-5 border-t border-line bg-sheet pb-[env(safe-area-inset-bottom)] min-[760px]:hidden"
    >
      {PLACES.map((place) => {
        const Icon = ICONS[place.path];
        return (
          Icon && (
            <NavLink
              key={place.path}
              to={`/c/${here.id}/${place.path}`}
              className={({ isActive }) => `${cell} ${isActive ? 'text-pine' : 'text-ink-2'}`}
            >
              <Icon size={20} aria-hidden />
              {place.name}
            </NavLink>
          )
        );
      })}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`${inMenu?.name ?? 'More'}: more places`}
          className={`${cell} ${inMenu ? 'text-pine' : 'text-ink-2'}`}
        >
          <Ellipsis size={20} aria-hidden />
          {inMenu?.name ?? 'More'}
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" sideOffset={6} className="pop z-50 min-w-56 p-1.5">
            {rest.map((place) => (
              <DropdownMenu.Item
                key={place.path}
                asChild
                className="block rounded-lg px-3 py-2.5 outline-none data-highlighted:bg-fog"
              >
                <Link to={`/c/${here.id}/${place.path}`}>{place.name}</Link>
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </nav>
  );
}

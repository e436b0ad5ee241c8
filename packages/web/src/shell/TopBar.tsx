/** The bar at the top: places, course, clock, and account. */
import { Link, NavLink, useNavigate } from 'react-router';
import { DropdownMenu } from 'radix-ui';
import { ChevronDown, CircleUserRound } from 'lucide-react';
import { isActiveStudent } from '@zest-bell/core/course';
import type { ClockAnswer } from '@zest-bell/core/exchange';
import { signOut } from '../lib/signOut.ts';
import { Brand } from '../ui/Brand.tsx';
import { DemoClock } from './DemoClock.tsx';
import { PLACES } from '../lib/places.ts';
import { useCourses, useSession } from '../lib/queries.ts';
import type { CourseHere } from '../lib/here.ts';

export function TopBar(props: {
  readonly here: CourseHere;
  readonly clock: ClockAnswer;
  readonly account: string;
  readonly onPalette: () => void;
  readonly onShortcuts: () => void;
  readonly isAdministrator: boolean;
  readonly onDelay: () => void;
}) {
  const { here } = props;
  const navigate = useNavigate();
  return (
    <header className="flex items-center gap-x-3 gap-y-1 bg-sheet px-3 py-1.5 min-[760px]:flex-wrap min-[760px]:px-6 min-[760px]:py-2 min-[1180px]:h-13 min-[1180px]:flex-nowrap min-[1180px]:py-0">
      <Link to={`/c/${here.id}/today`} aria-label="Zest Bell, to Today">
        <Brand />
      </Link>
      <span aria-hidden className="h-7 w-px bg-line max-[759px]:hidden" />
      <CourseSwitch here={here} />
      <nav
        aria-label="Places"
        className="order-last -mx-1 flex w-full gap-1 overflow-x-auto max-[759px]:hidden min-[1180px]:order-none min-[1180px]:mr-1 min-[1180px]:ml-auto min-[1180px]:w-auto"
      >
        {PLACES.map((place) => (
          <NavLink
            key={place.path}
            to={`/c/${here.id}/${place.path}`}
            className={({ isActive }) =>
              `relative px-2 py-3 text-[14.5px] font-semibold whitespace-nowrap ${isActive ? 'text-ink after:absolute after:inset-x-1 after:bottom-1 after:h-[3px] after:rounded after:bg-zest' : 'text-ink-2 hover:text-ink'}`
            }
          >
            {place.name}
          </NavLink>
        ))}
      </nav>
      <div className="ml-auto flex items-center gap-2 min-[1180px]:ml-0">
        <DemoClock clock={props.clock} zone={here.course.timeZone} />
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            aria-label={`You: ${props.account}`}
            className="grid size-9 place-items-center rounded-lg hover:bg-fog"
          >
            <CircleUserRound size={20} aria-hidden />
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" sideOffset={6} className="pop z-50 min-w-56 p-1.5">
              <DropdownMenu.Label className="px-3 py-1.5 text-[13px] text-ink-2">{props.account}</DropdownMenu.Label>
              <MenuItem onSelect={props.onPalette} keys="Ctrl K">
                Go to anything
              </MenuItem>
              <MenuItem onSelect={props.onShortcuts} keys="?">
                Keyboard shortcuts
              </MenuItem>
              <MenuItem onSelect={props.onDelay}>Time to take a message back</MenuItem>
              <MenuItem onSelect={() => void navigate('/account')}>Your account</MenuItem>
              {props.isAdministrator && <MenuItem onSelect={() => void navigate('/admin')}>This installation</MenuItem>}
              <MenuItem onSelect={() => void signOut()}>Sign out</MenuItem>
              <MenuItem onSelect={() => void signOut(true)}>Sign out everywhere</MenuItem>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
    </header>
  );
}

function MenuItem(props: { readonly onSelect: () => void; readonly keys?: string; readonly children: string }) {
  return (
    <DropdownMenu.Item
      onSelect={props.onSelect}
      className="flex cursor-pointer items-center gap-4 rounded-lg px-3 py-2 outline-none data-highlighted:bg-fog"
    >
      {props.children}
      {props.keys && <kbd className="ml-auto font-num text-[12.5px] text-ink-3">{props.keys}</kbd>}
    </DropdownMenu.Item>
  );
}

function CourseSwitch({ here }: { readonly here: CourseHere }) {
  const courses = useCourses();
  const session = useSession();
  const navigate = useNavigate();
  const students = here.course.people.filter(isActiveStudent).length;
  const all = courses.data ?? [];
  const open = all.filter((c) => !c.isArchived || c.id === here.id);
  const archived = all.filter((c) => c.isArchived);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex min-w-0 items-center gap-1.5 rounded-lg px-1.5 py-1.5 text-[14.5px] hover:bg-fog"
        title="Switch course"
      >
        <strong className="whitespace-nowrap">{here.course.code}</strong>
        <span className="truncate text-ink-2 max-[759px]:hidden">
          {here.course.title} · {students} students
        </span>
        <ChevronDown size={15} aria-hidden className="shrink-0" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={6} className="pop z-50 min-w-72 p-1.5">
          {open.map((c) => (
            <DropdownMenu.Item
              key={c.id}
              onSelect={() => void navigate(`/c/${c.id}/today`)}
              className="cursor-pointer rounded-lg px-3 py-2 outline-none data-highlighted:bg-fog"
            >
              <strong>{c.code}</strong> {c.title}
              <span className="block text-[13px] text-ink-2">
                {c.students} students · {c.rulesOn} {c.rulesOn === 1 ? 'rule' : 'rules'} on
                {c.id === here.id ? ' · open now' : ''}
              </span>
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          {session.data?.mayMakeCourses && (
            <DropdownMenu.Item
              onSelect={() => void navigate('/new')}
              className="cursor-pointer rounded-lg px-3 py-2 font-semibold text-pine outline-none data-highlighted:bg-fog"
            >
              New course
            </DropdownMenu.Item>
          )}
          {all.length > 1 && here.answer.archivedAt === null && here.may('settings.write') && (
            <DropdownMenu.Item
              onSelect={() => void navigate(`/c/${here.id}/carry`)}
              className="cursor-pointer rounded-lg px-3 py-2 font-semibold text-pine outline-none data-highlighted:bg-fog"
            >
              Carry over into {here.course.code}
            </DropdownMenu.Item>
          )}
          {archived.length > 0 && (
            <DropdownMenu.Sub>
              <DropdownMenu.SubTrigger className="cursor-pointer rounded-lg px-3 py-2 text-ink-2 outline-none data-highlighted:bg-fog">
                Archived courses ({archived.length})
              </DropdownMenu.SubTrigger>
              <DropdownMenu.Portal>
                <DropdownMenu.SubContent sideOffset={4} className="pop z-50 max-h-96 min-w-64 overflow-auto p-1.5">
                  {archived.map((c) => (
                    <DropdownMenu.Item
                      key={c.id}
                      onSelect={() => void navigate(`/c/${c.id}/today`)}
                      className="cursor-pointer rounded-lg px-3 py-2 outline-none data-highlighted:bg-fog"
                    >
                      <strong>{c.code}</strong> {c.title}
                    </DropdownMenu.Item>
                  ))}
                </DropdownMenu.SubContent>
              </DropdownMenu.Portal>
            </DropdownMenu.Sub>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

import { NavLink } from 'react-router';

/** The way between the pages of a place. */
export function PageTabs(props: {
  readonly label: string;
  /** Of the place. */
  readonly base: string;
  /** Paths below it; the first is the place itself. */
  readonly tabs: readonly { readonly path: string; readonly name: string }[];
  /** Under the head of a place they stand on a line. */
  readonly lined?: boolean;
}) {
  const { lined = false } = props;
  return (
    <nav
      aria-label={props.label}
      className={
        lined ? 'mt-3 flex flex-wrap gap-x-1 gap-y-1 border-b border-line' : 'flex max-w-full flex-wrap gap-x-1'
      }
    >
      {props.tabs.map((tab) => (
        <NavLink
          key={tab.path}
          end
          to={`${props.base}${tab.path}`}
          className={({ isActive }) =>
            `border-b-[3px] ${lined ? '-mb-px px-3 py-2' : 'px-2.5 py-1'} text-[14.5px] font-semibold whitespace-nowrap ${isActive ? 'border-zest text-ink' : 'border-transparent text-ink-2 hover:text-ink'}`
          }
        >
          {tab.name}
        </NavLink>
      ))}
    </nav>
  );
}

/** Underlined tabs: the pages of a place, or the parts of a page. */
import type { ReactNode } from 'react';
import { NavLink } from 'react-router';

const ROW = 'flex min-h-11 flex-wrap items-end gap-x-1 border-b border-line';
const tabOf = (isShown: boolean): string =>
  `-mb-px border-b-[3px] px-3 pt-2 pb-1.5 text-[14.5px] font-semibold whitespace-nowrap ${isShown ? 'border-zest text-ink' : 'border-transparent text-ink-2 hover:text-ink'}`;

export function PageTabs(props: {
  readonly label: string;
  /** Of the place. */
  readonly base: string;
  /** Paths below it; the first is the place itself. */
  readonly tabs: readonly { readonly path: string; readonly name: string }[];
}) {
  return (
    <nav aria-label={props.label} className={ROW}>
      {props.tabs.map((tab) => (
        <NavLink key={tab.path} end to={`${props.base}${tab.path}`} className={({ isActive }) => tabOf(isActive)}>
          {tab.name}
        </NavLink>
      ))}
    </nav>
  );
}

/** Parts of one page, which have no address below it. */
export function PartTabs<T extends string>(props: {
  readonly label: string;
  readonly value: T;
  readonly tabs: readonly { readonly value: T; readonly name: ReactNode }[];
  readonly onChange: (value: T) => void;
}) {
  return (
    <div role="group" aria-label={props.label} className={ROW}>
      {props.tabs.map(({ value, name }) => (
        <button
          key={value}
          type="button"
          aria-pressed={value === props.value}
          className={tabOf(value === props.value)}
          onClick={() => props.onChange(value)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}

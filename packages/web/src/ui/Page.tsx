/**
 * The frame of every page: its title with what can be done there, tabs under it, the filters of the open tab, and then what the page shows. Nothing
 * moves from one page to the next; a page that needs less room limits its cards, never the frame.
 */
import type { ReactNode } from 'react';

export interface PageProps {
  readonly title: string;
  /** What is written in place of the title, where it can be changed; the title is then for screen readers. */
  readonly heading?: ReactNode;
  /** Which of several pages of one title this is, for screen readers: a tab shows it. */
  readonly part?: string | undefined;
  /** The way back, or one line about the page. */
  readonly lead?: ReactNode;
  /** Of one course or of all. */
  readonly scope?: ReactNode;
  readonly actions?: ReactNode;
  readonly tabs?: ReactNode;
  readonly filters?: ReactNode;
  /** What it shows takes the height that is left in the window, and scrolls there; else the page scrolls. */
  readonly fills?: boolean;
  readonly children?: ReactNode;
}

const isThere = (part: ReactNode): boolean => part !== undefined && part !== null && part !== false && part !== '';

export function Page(props: PageProps) {
  const { title, heading, part, lead, scope, actions, tabs, filters, fills = false } = props;
  return (
    <div
      data-page={fills ? 'fills' : 'scrolls'}
      className={`mx-auto flex w-full max-w-[1280px] flex-col px-4 pt-2.5 min-[760px]:px-6 ${fills ? 'min-h-0 flex-1 pb-1.5' : 'pb-6'}`}
    >
      <div className="flex min-h-10 flex-wrap items-center gap-x-4 gap-y-2 min-[980px]:flex-nowrap">
        <h1
          className={
            heading === undefined
              ? 'min-w-0 text-[24px] leading-tight font-bold break-words min-[980px]:truncate'
              : 'sr-only'
          }
        >
          {title}
          {part !== undefined && <span className="sr-only">: {part}</span>}
        </h1>
        {heading}
        {scope}
        {isThere(lead) && (
          <p className="min-w-0 flex-1 truncate text-[14px] text-ink-2 max-[979px]:basis-full max-[979px]:whitespace-normal">
            {lead}
          </p>
        )}
        {isThere(actions) && (
          <div className="flex flex-wrap items-center gap-2 min-[980px]:ml-auto min-[980px]:shrink-0 min-[980px]:flex-nowrap">
            {actions}
          </div>
        )}
      </div>
      {isThere(tabs) && (
        <div className="min-h-11" data-testid="page-tabs">
          {tabs}
        </div>
      )}
      {isThere(filters) && (
        <div className="mt-2 flex min-h-9 flex-wrap items-center gap-x-4 gap-y-2" data-testid="filters">
          {filters}
        </div>
      )}
      <div data-testid="page-content" className={`mt-2 ${fills ? 'flex min-h-0 flex-1 flex-col' : ''}`}>
        {props.children}
      </div>
    </div>
  );
}

import type { ReactNode } from 'react';
import { numberWords } from '@zest-bell/core/time';
import { Link } from 'react-router';
import { LinkButton } from '../../ui/Button.tsx';

/** A part of the morning desk. `count` says how many lines it has, where that is worth knowing at a glance. */
export function Card(props: {
  readonly title: string;
  readonly count?: number;
  readonly note?: ReactNode;
  readonly children: ReactNode;
}) {
  return (
    <section aria-label={props.title} className="self-start rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">
        {props.title}
        {props.count !== undefined && (
          <span className="ml-2 text-[15px] text-ink-3 tabular-nums">{numberWords(props.count)}</span>
        )}
      </h2>
      {props.note && <p className="text-[14px] text-ink-2">{props.note}</p>}
      {props.children}
    </section>
  );
}

/** A line with the one place that helps. */
export function Line(props: {
  readonly to: string;
  readonly act: string;
  /** The one thing to do first. */
  readonly isFirst?: boolean;
  readonly children: ReactNode;
}) {
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line py-2 last:border-b-0">
      <span className="min-w-0 flex-1 basis-72">{props.children}</span>
      {props.isFirst ? (
        <LinkButton look="main" to={props.to}>
          {props.act}
        </LinkButton>
      ) : (
        <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={props.to}>
          {props.act}
        </Link>
      )}
    </li>
  );
}

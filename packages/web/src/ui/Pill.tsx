/** A round button that is on or off: one of a row to choose from, or a filter. */
import type { ReactNode } from 'react';

export function Pill(props: {
  readonly pressed: boolean;
  readonly onClick: () => void;
  readonly title?: string;
  readonly children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-pressed={props.pressed}
      title={props.title}
      onClick={props.onClick}
      className="rounded-full border first-letter:uppercase border-line-strong px-3 py-0.5 text-[14px] font-semibold text-ink-2 hover:border-ink aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-fog"
    >
      {props.children}
    </button>
  );
}

/** Marked words of a sentence that can be pressed. They break over lines as text does, which a button element does not. */
import type { ComponentProps } from 'react';

export function Markable({
  label,
  look = 'marked',
  children,
  ...rest
}: Omit<ComponentProps<'span'>, 'children'> & {
  readonly label: string;
  /** Of the words; the marker stroke unless told otherwise. */
  readonly look?: string;
  readonly children: string;
}) {
  return (
    <span
      {...rest}
      role="button"
      tabIndex={0}
      aria-label={label}
      className="markable"
      onKeyDown={(e) => {
        rest.onKeyDown?.(e);
        if (e.key !== 'Enter' && e.key !== ' ') return;
        e.preventDefault();
        e.currentTarget.click();
      }}
    >
      <span className={look}>{children}</span>
    </span>
  );
}

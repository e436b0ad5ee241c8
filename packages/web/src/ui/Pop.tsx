/** What opens beside a control: inside the window whatever its height, over dialogs too. */
import type { ReactNode } from 'react';
import { Popover } from 'radix-ui';
import { keepForList, waitsForFinger } from './combobox.ts';

/** Focus goes back to the control, unless it is somewhere else by now: another that was opened in the meantime would close. */
const isFocusFree = (): boolean => document.activeElement === null || document.activeElement === document.body;

/** Goes with a `Popover.Trigger` in a `Popover.Root`. */
export function Pop(props: {
  /** What it is, for those who hear the page. */
  readonly label: string;
  readonly align?: 'start' | 'center' | 'end';
  /** Whether the control gets the focus back; not where what was chosen takes it. */
  readonly focusBack?: boolean;
  /** Gives the focus back in another way than to the control. */
  readonly onFocusBack?: () => void;
  /** At most so many pixels, and never more than the window has. */
  readonly high?: number;
  /** Its width, padding and how it lays out what is in it. */
  readonly className: string;
  readonly children: ReactNode;
}) {
  return (
    <Popover.Portal>
      <Popover.Content
        align={props.align ?? 'start'}
        sideOffset={8}
        collisionPadding={12}
        aria-label={props.label}
        onEscapeKeyDown={keepForList}
        onOpenAutoFocus={(e) => {
          const content = e.currentTarget as HTMLElement;
          if (!waitsForFinger(content.querySelector('input'))) return;
          e.preventDefault();
          content.focus();
        }}
        onCloseAutoFocus={(e) => {
          if (props.focusBack === false || !isFocusFree()) return e.preventDefault();
          if (!props.onFocusBack) return;
          e.preventDefault();
          props.onFocusBack();
        }}
        style={{ maxHeight: `min(${props.high ?? 560}px, var(--radix-popover-content-available-height))` }}
        className={`pop z-[60] max-w-[calc(100vw-24px)] overflow-auto ${props.className}`}
      >
        {props.children}
      </Popover.Content>
    </Popover.Portal>
  );
}

/** A changeable part of the sentence: marked, and opened where it stands. */
import type { ReactNode } from 'react';
import { Popover } from 'radix-ui';

export function Part({
  words,
  label,
  onOpen,
  onClose,
  children,
  wide = false,
  open = false,
}: {
  readonly words: string;
  /** What the part is, for those who hear the page. */
  readonly label: string;
  readonly onOpen?: (() => void) | undefined;
  readonly onClose?: (() => void) | undefined;
  readonly children: ReactNode;
  readonly wide?: boolean;
  /** Whether it is open at first, for whoever was sent to it. */
  readonly open?: boolean;
}) {
  return (
    <Popover.Root defaultOpen={open} onOpenChange={(open) => (open ? onOpen?.() : onClose?.())}>
      <Popover.Trigger className="markable" aria-label={`${label}: ${words}`}>
        <span className="marked">{words}</span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={8}
          collisionPadding={12}
          aria-label={label}
          className={`pop z-40 grid max-h-[min(560px,var(--radix-popover-content-available-height))] gap-4 overflow-auto p-4 ${wide ? 'w-[400px]' : 'w-[340px]'} max-w-[calc(100vw-24px)]`}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

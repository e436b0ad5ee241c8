/** A line about what is there, on hover, on focus, and on press. */
import { useState, type ReactNode } from 'react';
import { Tooltip } from 'radix-ui';

export function Tip(props: {
  readonly tip: ReactNode;
  readonly className: string;
  /** For anyone who hears the page, in place of what is shown. */
  readonly label?: string;
  readonly children: ReactNode;
}) {
  const [isOpen, setOpen] = useState(false);
  return (
    <Tooltip.Provider delayDuration={200}>
      <Tooltip.Root open={isOpen} onOpenChange={setOpen}>
        <Tooltip.Trigger asChild>
          <span
            tabIndex={0}
            // A finger cannot hover: a press opens it, and does not close it as it would by default.
            onPointerDown={(e) => e.preventDefault()}
            onClick={(e) => {
              e.preventDefault();
              setOpen(true);
            }}
            role={props.label ? 'note' : undefined}
            aria-label={props.label}
            className={`cursor-help ${props.className}`}
          >
            {props.children}
          </span>
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={6}
            collisionPadding={12}
            className="pop z-[70] max-w-[280px] px-3 py-2 text-[13.5px] leading-snug"
          >
            {props.tip}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}

/** A changeable part of the sentence: marked, and opened in its place. */
import type { ReactNode } from 'react';
import { Popover } from 'radix-ui';
import { Button } from './Button.tsx';
import { Markable } from './Markable.tsx';
import { Pop } from './Pop.tsx';

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
  /** Whether it is open at first, for anyone who was sent to it. */
  readonly open?: boolean;
}) {
  return (
    <Popover.Root defaultOpen={open} onOpenChange={(open) => (open ? onOpen?.() : onClose?.())}>
      <Popover.Trigger asChild>
        <Markable label={`${label}: ${words}`}>{words}</Markable>
      </Popover.Trigger>
      <Pop label={label} className={`grid gap-4 p-4 ${wide ? 'w-[400px]' : 'w-[340px]'}`}>
        {children}
        <Popover.Close asChild>
          <Button className="justify-self-end">Done</Button>
        </Popover.Close>
      </Pop>
    </Popover.Root>
  );
}

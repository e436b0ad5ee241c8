/** A word that is ours, explained in a line on hover and on focus. */
import type { ReactNode } from 'react';
import { Tooltip } from 'radix-ui';

const MEANINGS = {
  spell: 'A spell is an unbroken stretch of time in which a student matches a rule.',
  round: 'In a round, a rule looks once at all of its students.',
  step: 'A step is one of the messages that a rule sends, one after the other, while a student still matches.',
  rhythm: 'The rhythm says when a rule looks.',
  nudge: 'A nudge is one message about one student, for a reason that a rule found.',
} as const;

export function Explained({
  word,
  children,
}: {
  readonly word: keyof typeof MEANINGS;
  /** The word as it stands in its sentence. */
  readonly children: ReactNode;
}) {
  return (
    <Tooltip.Provider delayDuration={200}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>
          <span tabIndex={0} className="cursor-help underline decoration-dotted decoration-1 underline-offset-3">
            {children}
          </span>
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={6}
            collisionPadding={12}
            className="pop z-[70] max-w-[280px] px-3 py-2 text-[13.5px] leading-snug"
          >
            {MEANINGS[word]}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}

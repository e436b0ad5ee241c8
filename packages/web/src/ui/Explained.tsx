/** A word that is ours, explained in a line on hover and on focus. */
import type { ReactNode } from 'react';
import { Tip } from './Tip.tsx';

const MEANINGS = {
  spell: 'A spell is an unbroken stretch of time in which a student matches a rule.',
  ring: 'To ring a rule is to run it once, now. It looks at all of its students and sends what it decides.',
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
    <Tip tip={MEANINGS[word]} className="underline decoration-dotted decoration-1 underline-offset-3">
      {children}
    </Tip>
  );
}

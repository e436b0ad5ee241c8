/** A word that is ours, explained in a line on hover, on focus, and on press. */
import type { ReactNode } from 'react';
import { Tip } from './Tip.tsx';

const MEANINGS = {
  eachTime: 'A time lasts until the student no longer matches. A student who matches again later starts a new time.',
  check: 'In a check, a rule looks once at all of its students and nudges those who are due.',
  step: 'A step is one of the messages that a rule sends, one after the other, while a student still matches.',
  rhythm: 'The rhythm says when a rule looks.',
  nudge: 'A nudge is one message about one student, for a reason that a rule found.',
} as const;

export function Explained({
  word,
  children,
}: {
  readonly word: keyof typeof MEANINGS;
  /** The word as it is in its sentence. */
  readonly children: ReactNode;
}) {
  return (
    <Tip tip={MEANINGS[word]} className="underline decoration-dotted decoration-1 underline-offset-3">
      {children}
    </Tip>
  );
}

/** What is known of a student as one file, and the list of erased students. */
import type { Instant } from '../time/instant.ts';

/** A list of everything of one kind; each entry as it is kept, dates as ISO texts. */
export type DataPart = readonly Readonly<Record<string, unknown>>[];

export interface StudentData {
  readonly format: 'zest-bell/student-data@1';
  readonly madeAt: string;
  readonly course: { readonly code: string; readonly title: string };
  readonly person: Readonly<Record<string, unknown>>;
  readonly activity: DataPart;
  readonly grades: DataPart;
  /** What was taken back as wrong. */
  readonly takenBack: DataPart;
  readonly nudges: DataPart;
  /** The mail that left, with its text. */
  readonly mail: DataPart;
  readonly replies: DataPart;
  readonly answers: DataPart;
  readonly notes: DataPart;
  readonly setAside: DataPart;
  /** Why limits held nudges back. */
  readonly heldBack: DataPart;
  readonly statements: DataPart;
  readonly changes: DataPart;
  /** Who has access to the course, and so may have seen it. */
  readonly seenBy: readonly string[];
}

export interface ErasedAnswer {
  readonly id: number;
  readonly at: Instant;
  readonly by: string;
  /** Whether the work is done; a server that stops continues at its next start. */
  readonly done: boolean;
  /** Messages to them that the mail server has and has not answered for: what the log says of those is erased then. */
  readonly inHand: number;
  /** Whether sources may bring them again. */
  readonly allowed: boolean;
  /** Backups that were made before, by their names: they still hold what was erased. */
  readonly backups: readonly string[];
}

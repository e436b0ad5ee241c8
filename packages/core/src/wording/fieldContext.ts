/** What the fields of a message are made from: the course, the student or students, the sender, and what the rule was about. */
import type { Facts } from '../measures/facts/facts.ts';
import type { MeasureCall } from '../measures/values/measure.ts';
import type { Instant } from '../time/instant.ts';

export interface Sender {
  readonly name: string;
  readonly signature: string;
  readonly officeHours: string;
  /** Where students book a time, http or https; empty when nowhere. */
  readonly bookingUrl?: string | undefined;
}

export interface FieldContext {
  readonly facts: Facts;
  /** Roster index of the student. */
  readonly person: number;
  readonly sender: Sender;
  readonly about: FieldSubject;
  readonly at: Instant;
  /** Who reads it, when it is not the student. */
  readonly reader?: { readonly name: string } | undefined;
  /** Roster indices of all students that one message is about (engine R11a); then nothing is said of one alone. */
  readonly together?: readonly number[] | undefined;
  /** It goes to others and not to the student (engine R11b). */
  readonly alert?: boolean | undefined;
}

/** What a condition is about, for the fields that speak of it. */
export interface FieldSubject {
  /** The first item it names. */
  readonly item: string | null;
  /** Its measures with their parameters. */
  readonly calls: readonly MeasureCall[];
}

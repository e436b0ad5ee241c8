/** What is said about connections. Instants of answers are epoch ms; those of a file are texts. */
import type { Instant } from '../time/instant.ts';
import type { PeopleCounts, RefusedTold } from './sourceData.ts';

export const PULLED_FORMAT = 'zest-bell/pulled@1';

/** What asking a source came to. */
export interface Pulled {
  readonly format: typeof PULLED_FORMAT;
  readonly source: number;
  readonly people: PeopleCounts;
  readonly items: PeopleCounts;
  readonly grades: PeopleCounts;
  readonly refused: readonly RefusedTold[];
  readonly trouble: { readonly code: string; readonly message: string; readonly tryAgainAt: string } | null;
}

/** A source of a course, as its page shows it: nothing of what is secret. */
export interface SourceCard {
  readonly id: number;
  readonly kind: 'oneroster' | 'lti';
  readonly name: string;
  /** Which class of it the course is. */
  readonly of: string;
  readonly addedAt: Instant;
  /** When it last told all that it was asked for. */
  readonly heardAt: Instant | null;
  readonly nextAt: Instant;
  /** What the last pull came to, with the first of what it refused. */
  readonly last: Pulled | null;
  /** How many entries the last pull refused. */
  readonly refused: number;
}

/** A learning platform that may launch. */
export interface PlatformCard {
  readonly id: number;
  readonly issuer: string;
  readonly clientId: string;
  readonly deployments: readonly string[];
  readonly authEndpoint: string;
  readonly tokenEndpoint: string;
  readonly jwksUrl: string;
  readonly addedAt: Instant;
  /** When an administrator let it launch; null while it waits for that. */
  readonly approvedAt: Instant | null;
  /** Whether the addresses that it gives count as proven. */
  readonly trustsAddresses: boolean;
}

/** Where a platform may register itself, once. */
export interface RegistrationAddress {
  readonly address: string;
  readonly endsAt: Instant;
}

/** A course by what it is called. */
export interface NamedCourse {
  readonly id: number;
  readonly code: string;
  readonly title: string;
}

/** A class of a service, and the course that its code and title speak for. */
export interface ProposedClass {
  /** Its sourcedId. */
  readonly id: string;
  readonly code: string;
  readonly title: string;
  readonly course: number | null;
}

/** The classes of a service, and the courses that they may be. */
export interface ClassesAnswer {
  readonly classes: readonly ProposedClass[];
  readonly courses: readonly NamedCourse[];
}

/** What comes in by one standard, sent by the platform. */
export interface Arrivals {
  readonly standard: 'caliper' | 'xapi';
  readonly lastAt: Instant | null;
  /** In the last seven days. */
  readonly lately: number;
  /** Those that wait until somebody says whom or what they mean. */
  readonly waiting: number;
}

import type { Instant } from '../time/instant.ts';

export const ROLES = ['student', 'instructor', 'assistant', 'observer'] as const;
export type Role = (typeof ROLES)[number];

/** Somebody else who may hear about a student: an advisor, a guardian, a counsellor. */
export interface Contact {
  readonly kind: string;
  readonly name: string;
  readonly email: string;
}

export interface Person {
  readonly id: string;
  readonly firstName: string;
  readonly lastName: string;
  readonly email: string | null;
  readonly role: Role;
  readonly section: string | null;
  readonly active: boolean;
  readonly enrolledAt: Instant;
  /** True while the person asked to get no nudges. */
  readonly paused: boolean;
  readonly contacts: readonly Contact[];
  /** Imported columns. */
  readonly fields: Readonly<Record<string, string | number>>;
}

export const fullName = (p: Person): string => `${p.firstName} ${p.lastName}`.trim();
export const isActiveStudent = (p: Person): boolean => p.active && p.role === 'student';

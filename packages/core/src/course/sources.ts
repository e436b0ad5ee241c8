/** Where what is known of a course comes from, and when each source last told anything. */
import type { Instant } from '../time/instant.ts';

export const SOURCES = ['activity', 'grades', 'attendance', 'roster'] as const;
export type SourceName = (typeof SOURCES)[number];
export type SourceTimes = Readonly<Partial<Record<SourceName, Instant>>>;

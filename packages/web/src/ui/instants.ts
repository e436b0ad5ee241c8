/** Instants in form fields: the wall clock of the course's zone, as the browser's own fields write it. */
import { formatInstant, zoneOf, type Instant } from '@zest-bell/core/time';

/** `2026-09-13T23:59`, or an empty text for none. */
export const toLocal = (at: Instant | null, zone: string): string =>
  at === null ? '' : formatInstant(at, zone).slice(0, 16);

/** Null for an empty or half-typed text. */
export function fromLocal(text: string, zone: string): Instant | null {
  // Some runtimes take “:00Z” for a date.
  if (!/^\d{4}-\d{2}-\d{2}(?:T\d{2}:\d{2})?$/.test(text)) return null;
  const wall = Date.parse(`${text}${text.length === 10 ? 'T00:00' : ''}:00Z`);
  return Number.isNaN(wall) ? null : zoneOf(zone).toInstant(wall);
}

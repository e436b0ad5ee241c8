import { Temporal } from 'temporal-polyfill';

/** A moment as integer epoch milliseconds (engine T1). */
export type Instant = number;

/** A clock is handed in wherever "now" is needed; the core itself reads none (engine T1). */
export interface Clock {
  now(): Instant;
}

export const MINUTE = 60_000;
export const HOUR = 3_600_000;
export const DAY = 86_400_000;

/** Reads ISO 8601 with an offset (or `Z`). Throws a RangeError on anything else. */
export function parseInstant(text: string): Instant {
  if (!/[zZ]$|[+-]\d{2}(:?\d{2})?$/.test(text)) throw new RangeError('An instant needs an offset, as in …T09:30-04:00');
  return Temporal.Instant.from(text).epochMilliseconds;
}

/** Writes ISO 8601 with the zone's offset at that moment: `2026-09-21T09:30:00-04:00`. */
export function formatInstant(t: Instant, zone: string): string {
  const z = Temporal.Instant.fromEpochMilliseconds(t).toZonedDateTimeISO(zone);
  return z.toString({ timeZoneName: 'never', smallestUnit: t % 1000 === 0 ? 'second' : 'millisecond' });
}

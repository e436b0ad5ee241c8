/**
 * Wall-clock time of one IANA zone as plain arithmetic. Temporal is exact but costs microseconds a call; a course's
 * measures ask millions of times, so the zone's offset changes around the course are read from Temporal once.
 */
import { Temporal } from 'temporal-polyfill';
import { DAY, type Instant } from './instant.ts';

/** Milliseconds since 1970-01-01T00:00 of the wall clock, as if it were UTC. */
export type WallTime = number;

export interface Zone {
  readonly id: string;
  toWall(t: Instant): WallTime;
  /** A skipped wall time is taken with the offset before the change, a repeated one is its first (engine R1). */
  toInstant(wall: WallTime): Instant;
  /** The first instant at or after `from` with this wall time: of a repeated one that has passed once, its second. Null once it has passed. */
  toInstantFrom(wall: WallTime, from: Instant): Instant | null;
}

const FIRST = Date.UTC(1990, 0, 1);
const LAST = Date.UTC(2060, 0, 1);

const known = new Map<string, Zone>();

/** Throws a RangeError for a zone the platform does not know. */
export function zoneOf(id: string): Zone {
  const cached = known.get(id);
  if (cached) return cached;
  const zone = build(id);
  known.set(id, zone);
  return zone;
}

export function isZone(id: string): boolean {
  try {
    zoneOf(id);
    return true;
  } catch {
    return false;
  }
}

function build(id: string): Zone {
  const offset = (t: Instant) =>
    Temporal.Instant.fromEpochMilliseconds(t).toZonedDateTimeISO(id).offsetNanoseconds / 1_000_000;
  // Segment i holds from changes[i] until changes[i + 1].
  const changes: number[] = [-Infinity];
  const offsets: number[] = [offset(FIRST)];
  let cursor = Temporal.Instant.fromEpochMilliseconds(FIRST).toZonedDateTimeISO(id);
  for (;;) {
    const next = cursor.getTimeZoneTransition('next');
    if (!next || next.epochMilliseconds > LAST) break;
    changes.push(next.epochMilliseconds);
    offsets.push(next.offsetNanoseconds / 1_000_000);
    cursor = next;
  }
  let last = 0;
  const segment = (t: Instant): number => {
    if (t >= changes[last]! && (last + 1 === changes.length || t < changes[last + 1]!)) return last;
    let lo = 0;
    let hi = changes.length - 1;
    while (lo < hi) {
      const mid = (lo + hi + 1) >> 1;
      if (changes[mid]! <= t) lo = mid;
      else hi = mid - 1;
    }
    last = lo;
    return lo;
  };
  const zone: Zone = {
    id,
    toWall: (t) => t + offsets[segment(t)]!,
    toInstant(wall) {
      // A day away from any change no other offset is possible.
      const near = wall - offsets[last]!;
      if (near - DAY >= changes[last]! && near + DAY < (changes[last + 1] ?? Infinity)) return near;
      const guess = segment(wall - offsets[segment(wall)]!);
      const from = Math.max(0, guess - 1);
      const to = Math.min(offsets.length - 1, guess + 1);
      for (let i = from; i <= to; i++) {
        const t = wall - offsets[i]!;
        const end = changes[i + 1] ?? Infinity;
        if (t >= changes[i]! && t < end) return t;
        // A gap: too late for this offset, too early for the next one.
        if (t >= end && wall - offsets[i + 1]! < end) return t;
      }
      return wall - offsets[guess]!;
    },
    toInstantFrom(wall, from) {
      const first = zone.toInstant(wall);
      if (first >= from) return first;
      const i = segment(first);
      const second = i + 1 < changes.length ? wall - offsets[i + 1]! : first;
      return second >= from && segment(second) === i + 1 ? second : null;
    },
  };
  return zone;
}

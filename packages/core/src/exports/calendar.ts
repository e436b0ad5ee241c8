/** A calendar that other programs read (RFC 5545). Written here: the packages that were tried shift all-day dates by the server's zone. */
import { dateOf, dayNumberOf } from '../time/calendar.ts';
import type { Instant } from '../time/instant.ts';

export interface CalendarEvent {
  /** The same for the same thing for ever (§3.8.4.7). */
  readonly uid: string;
  /** Grows with each change of it (§3.8.7.4). */
  readonly sequence: number;
  /** When it was last changed. */
  readonly stamp: Instant;
  readonly summary: string;
  readonly description?: string | undefined;
  readonly url?: string | null | undefined;
  /** A moment without length, in UTC, or whole days, both inclusive. */
  readonly when: { readonly at: Instant } | { readonly from: string; readonly until: string };
}

const LINE = 75;

/** Commas, semicolons, backslashes and line breaks of a text (§3.3.11). */
const escaped = (text: string): string =>
  text
    .replace(/[\\;,]/g, (c) => `\\${c}`)
    .replace(/\r\n|\r|\n/g, '\\n')
    // Other control characters are none of a text's.
    .replace(/\p{Cc}/gu, (c) => (c === '\t' ? c : ''));

const UTF8 = new TextEncoder();

/** Lines of at most 75 octets; a further one begins with a blank, and no character is cut (§3.1). */
export function folded(line: string): string {
  const out: string[] = [];
  let piece = '';
  let octets = 0;
  for (const c of line) {
    const size = UTF8.encode(c).length;
    if (octets + size > LINE) {
      out.push(piece);
      piece = ' ';
      octets = 1;
    }
    piece += c;
    octets += size;
  }
  out.push(piece);
  return out.join('\r\n');
}

/** `20260914T035900Z` */
const utc = (t: Instant): string => new Date(t).toISOString().replace(/[-:]|\.\d+/g, '');
const day = (date: string): string => date.replaceAll('-', '');

function eventLines({ uid, sequence, stamp, summary, description, url, when }: CalendarEvent): string[] {
  return [
    'BEGIN:VEVENT',
    `UID:${escaped(uid)}`,
    `SEQUENCE:${sequence}`,
    `DTSTAMP:${utc(stamp)}`,
    `LAST-MODIFIED:${utc(stamp)}`,
    ...('at' in when
      ? // Without an end it takes no time (§3.6.1).
        [`DTSTART:${utc(when.at)}`]
      : [
          `DTSTART;VALUE=DATE:${day(when.from)}`,
          // The end is the first day after it.
          `DTEND;VALUE=DATE:${day(dateOf(dayNumberOf(when.until) + 1))}`,
        ]),
    `SUMMARY:${escaped(summary)}`,
    ...(description ? [`DESCRIPTION:${escaped(description)}`] : []),
    ...(url ? [`URL:${url.replace(/[\r\n]/g, '')}`] : []),
    'TRANSP:TRANSPARENT',
    'END:VEVENT',
  ];
}

/** `name` is what a calendar program calls it. */
export function calendarText(name: string, events: readonly CalendarEvent[]): string {
  const lines = [
    ...['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Zest Bell//Course calendar//EN', 'CALSCALE:GREGORIAN'],
    // RFC 7986 §5.1.
    `NAME:${escaped(name)}`,
    ...events.flatMap(eventLines),
    'END:VCALENDAR',
  ];
  return `${lines.map(folded).join('\r\n')}\r\n`;
}

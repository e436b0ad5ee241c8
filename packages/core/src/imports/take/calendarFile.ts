/** An iCalendar file (RFC 5545): whole days of rest become breaks, and the rest due dates of items with their titles. */
import ICAL from 'ical.js';
import { BOUNDS } from '../../course/bounds.ts';
import { dayNumberOf } from '../../time/calendar.ts';
import { isZone, zoneOf } from '../../time/zone.ts';
import type { Instant } from '../../time/instant.ts';
import { type ImportDraft } from './draft.ts';
import { tidy } from '../read/names.ts';
import { RefusedRow } from '../read/refused.ts';
import type { Outcome } from './facts.ts';
import { UnreadableFile } from '../read/text.ts';

const MOST_EVENTS = 10_000;
const REST =
  /\b(break|holiday|recess|no class(es)?|vacation|campus closed|college closed|reading (day|week)|thanksgiving)\b/i;
/** What calendars write around the title of an item that is due. */
const AROUND =
  /^(due|deadline|assignment|quiz due)\s*[:–-]\s*|\s*(is |are )?(due|closes|deadline)\s*$|\s*\[[^\]]*\]\s*$/gi;

/** Takes the events of a calendar; `row` counts them, the first being 2. */
export function importCalendar(
  text: string,
  draft: ImportDraft,
  refuse: (row: number, why: RefusedRow) => void,
  count: (outcome: Outcome) => void,
): number {
  const events = eventsOf(text);
  events.forEach((event, i) => {
    try {
      mustHaveZone(event);
      // Without a list of its own each event looks through all others for dates that replace one of its dates.
      count(takeEvent(new ICAL.Event(event, { exceptions: [] }), draft));
    } catch (error) {
      refuse(
        i + 2,
        error instanceof RefusedRow ? error : new RefusedRow(null, 'event', 'This event has no date that can be read'),
      );
    }
  });
  return events.length;
}

function eventsOf(text: string): ICAL.Component[] {
  let calendars: unknown;
  try {
    calendars = ICAL.parse(text);
  } catch {
    throw new UnreadableFile('This calendar is damaged. Export it again.');
  }
  const all = Array.isArray(calendars) && Array.isArray(calendars[0]) ? (calendars as unknown[]) : [calendars];
  const events = all.flatMap((c) => {
    const calendar = new ICAL.Component(c as never);
    for (const zone of calendar.getAllSubcomponents('vtimezone'))
      if (!isBounded(zone)) calendar.removeSubcomponent(zone);
    return calendar.getAllSubcomponents('vevent');
  });
  if (events.length === 0) throw new UnreadableFile('This calendar has no events.');
  if (events.length > MOST_EVENTS) throw new UnreadableFile(`This calendar has more than ${MOST_EVENTS} events.`);
  return events;
}

function takeEvent(event: ICAL.Event, draft: ImportDraft): Outcome {
  const title = tidy((event.summary ?? '').slice(0, 1000));
  if (title.length > BOUNDS.line)
    throw new RefusedRow('SUMMARY', 'tooLong', `A title has at most ${BOUNDS.line} characters`);
  mustBeBounded(event);
  const starts = event.startDate;
  if (!starts) throw new RefusedRow('DTSTART', 'date', `“${title}” has no date`);
  if (event.isRecurring())
    throw new RefusedRow('RRULE', 'repeats', `“${title}” repeats. Write each of its dates as an event of its own`);
  if (starts.isDate && REST.test(title)) return addBreak(draft, title, starts, event.endDate);
  const item = itemOfTitle(draft, title);
  if (item === null) return 'same';
  if (!item)
    throw new RefusedRow('SUMMARY', 'unknownItem', `There is no item “${title}” in this course`, {
      about: 'item',
      said: title,
    });
  const due = draft.write(starts.isDate ? endOf(draft, starts) : instantOf(draft, event, starts));
  if (item.dueAt != null && Date.parse(item.dueAt) === Date.parse(due)) {
    draft.again.say('items', item.id, ['dueAt']);
    return 'same';
  }
  const isNew = item.dueAt == null;
  item.dueAt = due;
  return isNew ? 'new' : 'changed';
}

/** Changes of the clock of one zone: two a year as rules, or each by its date. */
const MOST_CHANGES = 500;
const DAY_OF_MONTH = /^-?([1-9]|1\d|2[0-8])$/;

/**
 * Whether the changes of a zone are counted in a moment: the library lists them one by one, up to the date that is asked for, and
 * for ever where a rule never comes to pass. Changes of the clock happen at most once a year by each rule (RFC 5545, 3.6.5).
 */
function isBounded(zone: ICAL.Component): boolean {
  const changes = zone.getAllSubcomponents();
  let dates = changes.length;
  for (const change of changes) {
    dates += change.getAllProperties('rdate').length;
    const rules = change.getAllProperties('rrule');
    if (rules.length > 1 || !rules.every((rule) => isYearly(rule.getFirstValue()))) return false;
  }
  return dates <= MOST_CHANGES;
}

function isYearly(rule: unknown): boolean {
  if (!(rule instanceof ICAL.Recur) || rule.freq !== 'YEARLY') return false;
  const { BYMONTH: months = [], BYDAY: days = [], BYMONTHDAY: dates = [], ...others } = rule.parts;
  return (
    months.length <= 1 &&
    days.length <= 1 &&
    dates.length <= 31 &&
    dates.every((date) => DAY_OF_MONTH.test(String(date))) &&
    Object.keys(others).length === 0
  );
}

/** A time zone is known by its name, or by what the file says of it. Throws `RefusedRow`. */
function mustHaveZone(event: ICAL.Component): void {
  for (const name of ['dtstart', 'dtend']) {
    const zone = event.getFirstProperty(name)?.getParameter('tzid');
    if (typeof zone === 'string' && !isZone(zone) && !event.getTimeZoneByID(zone))
      throw new RefusedRow(name.toUpperCase(), 'zone', `The time zone “${zone.slice(0, 60)}” is not known`);
  }
}

/** Asked before the library counts days: it walks through them one by one. */
function mustBeBounded(event: ICAL.Event): void {
  const { component } = event;
  const duration = component.getFirstPropertyValue('duration');
  if (duration instanceof ICAL.Duration && !(Math.abs(duration.toSeconds()) <= LONGEST * DAY_SECONDS))
    throw new RefusedRow('DURATION', 'tooLong', 'An event lasts a year at most');
  for (const name of ['dtstart', 'dtend']) {
    const time = component.getFirstPropertyValue(name);
    if (time instanceof ICAL.Time && !(time.year >= 1970 && time.year <= 2100))
      throw new RefusedRow(name.toUpperCase(), 'dateRange', 'This date is not between 1970 and 2100');
  }
}

/** Days. */
const LONGEST = 366;
const DAY_SECONDS = 86_400;

function itemOfTitle(draft: ImportDraft, title: string) {
  const plain = draft.item(title);
  if (plain !== undefined) return plain;
  const bare = title.replace(AROUND, '').trim();
  return bare === title ? undefined : draft.item(bare);
}

const dateOf = (t: ICAL.Time): string =>
  `${t.year}-${String(t.month).padStart(2, '0')}-${String(t.day).padStart(2, '0')}`;

/** The last day of an event of whole days is the one before its end (RFC 5545, 3.6.1). */
function addBreak(draft: ImportDraft, name: string, starts: ICAL.Time, ends: ICAL.Time | null): Outcome {
  const last = (ends ?? starts).clone();
  if (ends && ends.isDate && ends.compare(starts) > 0) last.adjust(-1, 0, 0, 0);
  const found = { from: dateOf(starts), to: dateOf(last), name };
  if (dayNumberOf(found.to) - dayNumberOf(found.from) >= LONGEST)
    throw new RefusedRow('DTEND', 'tooLong', 'A break lasts a year at most');
  const { start, end } = draft.json.course;
  if (found.to < start || found.from > end)
    throw new RefusedRow('DTSTART', 'outsideTerm', `“${name}” lies outside the course`);
  const breaks = (draft.json.course.breaks ??= []);
  if (breaks.some((b) => b.from === found.from && b.to === found.to)) return 'same';
  if (breaks.length >= BOUNDS.breaks)
    throw new RefusedRow('SUMMARY', 'tooMany', `A course has at most ${BOUNDS.breaks} breaks`);
  const over = breaks.find((b) => b.from <= found.to && found.from <= b.to);
  if (over) throw new RefusedRow('DTSTART', 'overlaps', `“${name}” overlaps the break “${over.name}”`);
  breaks.push(found);
  breaks.sort((a, b) => (a.from < b.from ? -1 : 1));
  return 'new';
}

const wallOf = (t: ICAL.Time): number => Date.UTC(t.year, t.month - 1, t.day, t.hour, t.minute, t.second);

/** A due date without a time means the end of the day, in the course's zone. */
const endOf = (draft: ImportDraft, t: ICAL.Time): Instant => draft.zone.toInstant(wallOf(t) + (24 * 60 - 1) * 60_000);

/** In the zone that the event names, if it is one; by the file's own definition else; a time without a zone is the course's. */
function instantOf(draft: ImportDraft, event: ICAL.Event, t: ICAL.Time): Instant {
  if (t.zone === ICAL.Timezone.utcTimezone) return wallOf(t);
  const named = event.component.getFirstProperty('dtstart')?.getParameter('tzid');
  if (typeof named === 'string' && isZone(named)) return zoneOf(named).toInstant(wallOf(t));
  return t.zone === ICAL.Timezone.localTimezone ? draft.zone.toInstant(wallOf(t)) : t.toJSDate().getTime();
}

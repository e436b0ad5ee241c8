/** What happens in a course as a calendar that other programs read: due dates, breaks, and rounds of rules that are on. No student’s name is in it. */
import { createHash } from 'node:crypto';
import { calendarText, type CalendarEvent } from '@zest-bell/core/exports';
import { DAY, dateOf, roundInstants, type Instant } from '@zest-bell/core/time';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em, Orm } from '../../platform/database/orm.ts';
import { inCourse } from '../../course/lock.ts';
import { readableRules, rowsOn } from '../../rules/repository.ts';
import { FeedEntryRow, feedEntryHolds } from './entity.ts';
import { insertRow, updateRow } from '../../platform/database/writing.ts';

type FeedEntry = Omit<CalendarEvent, 'sequence' | 'stamp' | 'uid'> & {
  /** Within its course. */
  readonly name: string;
};

/** A rule that runs every hour fills no calendar. */
const MOST_ROUNDS = 2000;

async function calendarOf(em: Em, { id, course }: LiveCourse): Promise<FeedEntry[]> {
  const due = course.items.flatMap((i): FeedEntry[] =>
    i.dueAt === null ? [] : [{ name: `due-${i.id}`, summary: `Due: ${i.title}`, url: i.url, when: { at: i.dueAt } }],
  );
  const breaks = course.breaks.map((b, n): FeedEntry => ({
    name: `break-${n}`,
    summary: b.name ?? 'Break',
    when: { from: b.from, until: b.to },
  }));
  const rounds = readableRules(await rowsOn(em, id)).flatMap((rule) =>
    roundInstants(rule.rhythm, course.calendar, course.calendar.start)
      .slice(0, MOST_ROUNDS)
      .map((at, n, all): FeedEntry => {
        const day = localDay(at, course);
        // The day names it, so that another time of the day is the same round moved.
        const nth = all.slice(0, n).filter((other) => localDay(other, course) === day).length;
        return {
          name: `round-${rule.id}-${day}${nth > 0 ? `-${nth + 1}` : ''}`,
          summary: `Zest Bell: “${rule.name}” runs`,
          when: { at },
        };
      }),
  );
  return [...due, ...breaks, ...rounds];
}

const localDay = (at: Instant, { calendar }: LiveCourse['course']): string =>
  dateOf(Math.floor(calendar.zone.toWall(at) / DAY));

const digestOf = (said: FeedEntry): string =>
  createHash('sha256').update(JSON.stringify(said)).digest('base64url').slice(0, 22);

/** The calendar as a text. What has changed since it was last read gets the next number (RFC 5545 §3.8.7.4). */
export async function feedText(orm: Orm, em: Em, live: LiveCourse, now: Instant): Promise<string> {
  const said = await calendarOf(em, live);
  const known = await entriesOf(em, live.id);
  const isOld = ({ name, digest }: { name: string; digest: string }) => known.get(name)?.digest !== digest;
  const current = said.map((s) => ({ said: s, name: s.name, digest: digestOf(s) }));
  const entries = current.some(isOld)
    ? await inCourse(orm, live.id, async (tx) => {
        const rows = await tx.find(FeedEntryRow, { course: live.id });
        const byName = new Map(rows.map((r) => [r.name, r]));
        for (const { name, digest } of current) {
          const row = byName.get(name);
          if (!row) {
            byName.set(
              name,
              await insertRow(tx, feedEntryHolds, { course: live.id, name, digest, sequence: 0, changedAt: now }),
            );
          } else if (row.digest !== digest) {
            await updateRow(tx, feedEntryHolds, row, { digest, sequence: row.sequence + 1, changedAt: now });
          }
        }
        return byName;
      })
    : known;
  const events = current.map(({ said: { name, ...event } }): CalendarEvent => {
    const { sequence, changedAt: stamp } = entries.get(name)!;
    return { ...event, uid: `${name}@course-${live.id}.zest-bell`, sequence, stamp };
  });
  return calendarText(`${live.course.code} ${live.course.title}`, events);
}

async function entriesOf(em: Em, course: number): Promise<ReadonlyMap<string, FeedEntryRow>> {
  const rows = await em.find(FeedEntryRow, { course }, { disableIdentityMap: true });
  return new Map(rows.map((r) => [r.name, r]));
}

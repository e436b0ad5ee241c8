/** A course in counts, for those who see nobody: what of it is told is decided here, and nothing else leaves. */
import { safeCount, safeGroups, safeShare, shareOfShare } from '@zest-bell/core/access';
import { grouped, isActiveStudent } from '@zest-bell/core/course';
import type { CountsAnswer } from '@zest-bell/core/exchange';
import { DAY, dateOf, dayNumberOf, type Instant } from '@zest-bell/core/time';
import type { LiveCourse } from '../../course/activity/live.ts';
import { sentTexts } from '../../mail/replies/sentTexts.ts';
import type { Em } from '../../platform/database/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ruleName } from '../../rules/repository.ts';

const WEEK = 7;
/** A bit for each kind of activity. */
const ANY_KIND = 0xffff;
const NO_SECTION = 'without a section';

export async function countsOf(em: Em, live: LiveCourse, now: Instant): Promise<CountsAnswer> {
  const { course, facts } = live;
  const students = course.people.filter(isActiveStudent);
  const ids = new Set(students.map((s) => s.id));
  const sent = (await sentTexts(em, live, now)).filter((s) => ids.has(s.student));
  const byRule = grouped(sent, (s) => s.rule ?? '');
  const rules = await em.find(RuleRow, { course: live.id, archivedAt: null }, { orderBy: { position: 'asc' } });
  const { zone } = course.calendar;
  const first = dayNumberOf(course.start);
  const last = Math.min(dayNumberOf(course.end), Math.floor(zone.toWall(now) / DAY));
  const weeks: CountsAnswer['weeks'][number][] = [];
  for (let day = first; day <= last; day += WEEK) {
    const [from, until] = [zone.toInstant(day * DAY), zone.toInstant((day + WEEK) * DAY)];
    const wasActive = (id: string) => (facts.history.logOf(id).latest(ANY_KIND, Math.min(until - 1, now)) ?? 0) >= from;
    const active = students.filter((s) => wasActive(s.id)).length;
    const nudged = new Set(sent.filter((s) => s.sentAt >= from && s.sentAt < until).map((s) => s.student)).size;
    weeks.push({
      from: dateOf(day),
      active: safeShare(active, students.length),
      nudged: safeShare(nudged, students.length),
    });
  }
  const { code, title, timeZone, start, end } = course;
  const bySection = grouped(students, (s) => s.section ?? NO_SECTION);
  return {
    id: live.id,
    code,
    title,
    timeZone,
    start,
    end,
    now,
    students: safeCount(students.length),
    weeks,
    rules: rules.map((row) => {
      const own = byRule.get(row.key) ?? [];
      const reached = safeShare(new Set(own.map((s) => s.student)).size, students.length);
      const back = new Set(own.filter((s) => s.returned).map((s) => s.student)).size;
      return { name: ruleName(row), isOn: row.status === 'on', reached, cameBack: shareOfShare(back, reached) };
    }),
    sections: safeGroups([...bySection].map(([name, of]) => ({ name, n: of.length }))).map(({ names, n }) => ({
      names,
      students: n,
    })),
  };
}

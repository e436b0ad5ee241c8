/** The morning desk: what rang since yesterday and whom it reached, what rings next, and what is about to end. */
import { DAY, dateOf, roundInstants } from '@zest-bell/core/time';
import { isAlert } from '@zest-bell/core/rules';
import { previewComingRoundsInParts } from '@zest-bell/core/rounds';
import { actWords, isNudge } from '@zest-bell/core/outcomes';
import type { AheadAnswer, TodayAnswer, TodayRound } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { NudgeRow } from '../../mail/nudges/entity.ts';
import { sentNudges } from '../../mail/nudges/returns.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { RoundRow } from '../../rounds/deciding/entity.ts';
import { studentName } from '../../mail/log/query.ts';
import { summaryOf } from '../rules/cards.ts';
import type { ClockNotice } from '../../platform/notices/entity.ts';
import { noticesNow } from '../../platform/notices/notices.ts';
import { MailboxRow } from '../../mail/replies/entity.ts';
import { reasonsIn } from '../../course/reasons.ts';
import { PersonRow } from '../../course/entity.ts';
import { ImportRow } from '../../intake/changes/importRow.ts';
import type { Em } from '../../platform/database/orm.ts';
import { StatementRow } from '../../intake/statements/entity.ts';
import { RuleRow } from '../../rules/entity.ts';
import { reasonLines } from '../../rules/reasonLines.ts';
import { limitLogFrom } from '../../rounds/deciding/limitLog.ts';
import { readableRule, readableRules, ruleName, ruleWeights, rowsOn } from '../../rules/repository.ts';

/** Over a weekend as well: Monday shows what rang since Friday. */
const BACK_DAYS = 3;
const AHEAD_DAYS = 7;
/** How long it says why others changed something. */
const REASONS_FOR = 7 * DAY;

/**
 * Which rounds rang at a wrong time because the clock was set: too early by a clock that was ahead, or late, as the clock went past
 * their instants. Nothing where no round of the course did.
 */
function clockStepOf(
  { from, to, lastRound }: ClockNotice,
  rounds: readonly RoundRow[],
  nameOf: (rule: string) => string,
): TodayAnswer['clock'] {
  const wrong = rounds.flatMap(({ id, rule, at, missed }) => {
    const early = id <= lastRound && at > to && at <= from ? [at] : [];
    const late = missed.filter((t) => t > from && t <= to);
    return [...early, ...late].map((instant) => ({ name: nameOf(rule), at: instant }));
  });
  return wrong.length === 0 ? [] : [{ from, to, rounds: wrong }];
}

/** What came into the course's folder and did not fit. */
async function refusedFiles(em: Em, course: number, since: number): Promise<TodayAnswer['files']> {
  const rows = await em.find(
    ImportRow,
    { course, way: 'folder', at: { $gte: since }, state: { $ne: 'open' } },
    { orderBy: { id: 'desc' }, limit: 20 },
  );
  return rows
    .map((r) => ({ name: r.name, at: r.at, refused: r.report?.counts.refused ?? 0, trouble: r.trouble ?? null }))
    .filter((f) => f.refused > 0 || f.trouble !== null);
}

export function todayRoutes(door: Door, { reading, live, clock, longWork }: IntakeServices): void {
  door.on(contract.desk.today, async ({ course: id, actor }) => {
    const em = reading.em.fork();
    const known = await live.get(em, id);
    const { course } = known;
    const now = clock.now();
    const since = course.calendar.dayStart(course.calendar.addDays(now, -BACK_DAYS));
    const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
    const names = new Map(rows.map((r) => [r.key, ruleName(r)]));
    const nameOf = (student: string) => studentName(course, student);
    const rounds = await em.find(
      RoundRow,
      { course: id, at: { $gte: since } },
      { orderBy: { at: 'desc', id: 'desc' } },
    );
    const nudges = await em.find(NudgeRow, { course: id, roundAt: { $gte: since }, state: { $ne: 'withdrawn' } });
    const weights = await ruleWeights(em, id);
    const named = ({ student }: { readonly student: string }) => ({ student, name: nameOf(student) });
    const whom = (of: readonly NudgeRow[]) => ({
      nudged: of.filter((n) => n.toStudent).map(named),
      alerted: of.filter((n) => !n.toStudent).map(named),
    });
    const rang = rounds.map((round): TodayRound => ({
      ...summaryOf(round),
      rule: round.rule,
      name: names.get(round.rule) ?? round.rule,
      weight: weights.get(round.rule) ?? 'normal',
      ...whom(nudges.filter((n) => n.rule === round.rule && n.roundAt === round.at)),
    }));
    const endingSoon: { rule: string; name: string; last: number }[] = [];
    for (const row of rows.filter((r) => r.status === 'on')) {
      const rule = readableRule(row);
      if (!rule) continue;
      const instants = roundInstants(rule.rhythm, course.calendar, now + 1);
      const last = instants.at(-1);
      if (last !== undefined && last <= now + AHEAD_DAYS * DAY)
        endingSoon.push({ rule: row.key, name: names.get(row.key)!, last });
    }
    const people = await em.find(PersonRow, {
      course: id,
      active: true,
      $or: [{ paused: true }, { bouncedAt: { $ne: null } }],
    });
    // What ends an absence today may answer a nudge of two weeks ago.
    const sent = await sentNudges(em, known, now, { since: course.calendar.addDays(since, -14) });
    const steps = await noticesNow(em, 'clock');
    const mailboxes = await em.find(MailboxRow, { trouble: { $ne: null } });
    const whose = (p: PersonRow) => named({ student: p.key });
    return {
      since,
      rang,
      endingSoon,
      returned: sent.flatMap(({ student, nudge, returned }) =>
        returned && returned.at >= since
          ? [{ student, name: nameOf(student), at: returned.at, nudge, what: actWords(returned, course) }]
          : [],
      ),
      files: await refusedFiles(em, id, since),
      clock: steps.flatMap(({ clock: step }) => (step ? clockStepOf(step, rounds, (r) => names.get(r) ?? r) : [])),
      reasons: await reasonLines(em, id, await reasonsIn(em, id, { from: now - REASONS_FOR, except: actor })),
      statements: await em.count(StatementRow, { course: id, state: 'waiting', voided: false }),
      mailbox: mailboxes.map((m) => ({ name: hostOf(m.id), said: m.trouble! })),
      bounced: people.flatMap((p) => (p.bouncedAt == null ? [] : [{ ...whose(p), at: p.bouncedAt }])),
      paused: people.filter((p) => p.paused).map((p) => ({ ...whose(p), until: p.pausedUntil ?? null })),
    } satisfies TodayAnswer;
  });
  /** The coming days, replayed from the log as it is. */
  door.on(contract.desk.ahead, async ({ course: id, account, res }) => {
    const em = reading.em.fork();
    const { course, facts } = await live.get(em, id);
    const now = clock.now();
    const until = now + AHEAD_DAYS * DAY;
    const rows = await rowsOn(em, id);
    const rules = readableRules(rows);
    const logged = await limitLogFrom(em, id, rows, rules, now + 1, [facts]);
    const decisions = await longWork.run(account, res, () =>
      previewComingRoundsInParts(rules, facts, logged.nudges, now, until, logged.replies),
    );
    const days = new Map<string, AheadAnswer['days'][number]['rules'][number][]>();
    for (const rule of rules) {
      const byDate = new Map<string, number[]>();
      for (const t of roundInstants(rule.rhythm, course.calendar, now + 1, until)) {
        const date = dateOf(course.calendar.dayNumber(t));
        byDate.set(date, [...(byDate.get(date) ?? []), t]);
      }
      for (const [date, rounds] of byDate) {
        const decided = decisions.filter((d) => d.rule === rule.id && rounds.includes(d.round));
        const leaving = decided.filter(isNudge);
        const written = leaving.filter((d) => !isAlert(rule.steps[d.step]!));
        const held = written.filter((d) => d.outcome === 'held').length;
        const line = { id: rule.id, name: rule.name, rounds, nudges: written.length, held };
        const alerts = leaving.length - written.length;
        days.set(date, [...(days.get(date) ?? []), { ...line, alerts }]);
      }
    }
    const sorted = [...days].sort(([a], [b]) => a.localeCompare(b));
    return { until, days: sorted.map(([date, rules]) => ({ date, rules })) } satisfies AheadAnswer;
  });
}

/** The server of a mailbox: its account concerns only the operator. */
const hostOf = (mailbox: string): string => /@([^/:]+)/.exec(mailbox)?.[1] ?? 'the mail server';

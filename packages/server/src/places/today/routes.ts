/** The morning desk: what rang since yesterday and whom it reached, what rings next, and what is about to end. */
import { Router } from 'express';
import { DAY, fullName, roundInstants, type TodayAnswer, type TodayRound } from '@zest-bell/core';
import { courseOf } from '../../accounts/routes.ts';
import { NudgeRow } from '../../nudges/entity.ts';
import { sentNudges } from '../../nudges/returns.ts';
import type { Services } from '../../services.ts';
import { RoundRow } from '../../rounds/entity.ts';
import { summaryOf } from '../rules/cards.ts';
import { MailboxRow, ReplyRow } from '../../replies/entity.ts';
import { PersonRow } from '../../course/entity.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ruleName, ruleOfRow } from '../../rules/repository.ts';

/** Over a weekend as well: Monday shows what rang since Friday. */
const BACK_DAYS = 3;
const AHEAD_DAYS = 7;

export function todayRoutes({ reading, live, clock }: Services): Router {
  const router = Router({ mergeParams: true });
  router.get('/today', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = reading.em.fork();
    const known = await live.get(em, id);
    const { course } = known;
    const now = clock.now();
    const since = course.calendar.dayStart(course.calendar.addDays(now, -BACK_DAYS));
    const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
    const names = new Map(rows.map((r) => [r.key, ruleName(r)]));
    const nameOf = (student: string) => {
      const person = course.people[course.personIndex.get(student) ?? -1];
      return person ? fullName(person) : student;
    };
    const rounds = await em.find(
      RoundRow,
      { course: id, at: { $gte: since } },
      { orderBy: { at: 'desc', id: 'desc' } },
    );
    const nudges = await em.find(NudgeRow, { course: id, roundAt: { $gte: since }, state: { $ne: 'withdrawn' } });
    const rang = rounds.map((round): TodayRound => ({
      ...summaryOf(round),
      rule: round.rule,
      name: names.get(round.rule) ?? round.rule,
      heardNames: nudges.filter((n) => n.rule === round.rule && n.roundAt === round.at).map((n) => nameOf(n.student)),
    }));
    const coming = new Map<number, { id: string; name: string }[]>();
    const endingSoon: { rule: string; name: string; last: number }[] = [];
    for (const row of rows.filter((r) => r.status === 'on')) {
      const instants = roundInstants(ruleOfRow(row).rhythm, course.calendar, now + 1);
      const rule = { id: row.key, name: names.get(row.key)! };
      for (const at of instants.filter((t) => t <= now + AHEAD_DAYS * DAY)) {
        coming.set(at, [...(coming.get(at) ?? []), rule]);
      }
      const last = instants.at(-1);
      if (last !== undefined && last <= now + AHEAD_DAYS * DAY)
        endingSoon.push({ rule: rule.id, name: rule.name, last });
    }
    const next = [...coming].sort((a, b) => a[0] - b[0]).map(([at, rules]) => ({ at, rules }));
    const replies = await em.find(
      ReplyRow,
      { course: id, kind: 'reply', at: { $gte: since } },
      { orderBy: { at: 'desc', id: 'desc' }, limit: 20 },
    );
    const people = await em.find(PersonRow, {
      course: id,
      active: true,
      $or: [{ paused: true }, { bouncedAt: { $ne: null } }],
    });
    // What ends an absence today may answer a nudge of two weeks ago.
    const sent = await sentNudges(em, known, now, { since: course.calendar.addDays(since, -14) });
    const mailboxes = await em.find(MailboxRow, { trouble: { $ne: null } });
    const named = (p: PersonRow) => ({ student: p.key, name: nameOf(p.key) });
    res.json({
      since,
      rang,
      next: next.slice(0, 12),
      endingSoon,
      answers: replies.map((r) => ({
        nudge: r.nudge,
        name: r.student == null ? r.fromName || r.fromAddress : nameOf(r.student),
        at: r.at,
        text: r.text.slice(0, 200),
      })),
      returned: sent.flatMap(({ student, nudge, returned }) =>
        returned && returned.at >= since ? [{ student, name: nameOf(student), at: returned.at, nudge }] : [],
      ),
      mailbox: mailboxes.map((m) => ({ name: hostOf(m.id), said: m.trouble! })),
      bounced: people.flatMap((p) => (p.bouncedAt == null ? [] : [{ ...named(p), at: p.bouncedAt }])),
      paused: people.filter((p) => p.paused).map((p) => ({ ...named(p), until: p.pausedUntil ?? null })),
    } satisfies TodayAnswer);
  });
  return router;
}

/** The server of a mailbox: whose account it is concerns nobody but the operator. */
const hostOf = (mailbox: string): string => /@([^/:]+)/.exec(mailbox)?.[1] ?? 'the mail server';

/** Everything that is known of one student, as one file that reads well. */
import type { DataPart, StudentData } from '@zest-bell/core/exchange';
import { formatInstant } from '@zest-bell/core/time';
import type { LiveCourse } from '../../course/activity/live.ts';
import { Access, Account } from '../../access/entity.ts';
import { actorNames } from '../../access/actors.ts';
import { EventRow, GradeRow, RetractedRow } from '../../course/activity/entity.ts';
import { AsideRow } from '../../course/entity.ts';
import { ChangeRow } from '../../intake/changes/entity.ts';
import { StatementRow } from '../../intake/statements/entity.ts';
import { AttemptRow } from '../../mail/log/entity.ts';
import { NudgeRow, RefusalRow } from '../../mail/nudges/entity.ts';
import { PlainMailRow } from '../../mail/plainMail/entity.ts';
import { ReplyRow } from '../../mail/replies/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { NoteRow } from '../notes/entity.ts';
import { AppError } from '../../platform/http/errors.ts';

const FRESH = { disableIdentityMap: true, orderBy: { id: 'asc' } } as const;

/** Throws `notFound`. */
export async function dataOf(
  em: Em,
  { id: course, course: parts }: LiveCourse,
  student: string,
  now: number,
): Promise<StudentData> {
  const person = parts.people[parts.personIndex.get(student) ?? -1];
  if (person?.role !== 'student') throw new AppError('notFound');
  const when = (at: number | null | undefined) => (at == null ? null : formatInstant(at, parts.timeZone));
  const nudges = await em.find(NudgeRow, { course, student }, FRESH);
  const ids = nudges.map((n) => n.id);
  const items = new Map(parts.items.map((i) => [i.id, i.title]));
  const item = (key: string | null | undefined) => (key == null ? null : (items.get(key) ?? key));
  const who = await em.find(Access, { course }, { disableIdentityMap: true });
  const accounts = await em.find(Account, { id: { $in: who.map((a) => a.account) } }, { disableIdentityMap: true });
  const takenBack = await em.find(RetractedRow, { course, person: student }, FRESH);
  const answers = await em.find(PlainMailRow, { course, nudge: { $in: ids }, kind: 'answer' }, FRESH);
  const aside = await em.find(AsideRow, { course, student }, FRESH);
  const changes = (await em.find(ChangeRow, { course }, FRESH)).filter((c) =>
    c.changes.people.some((p) => p.id === student),
  );
  const did = [...takenBack, ...answers, ...changes].map((r) => r.by);
  const name = await actorNames(em, [...did, ...nudges.map((n) => n.decidedBy), ...aside.map((a) => a.setBy)]);
  const part = <T>(rows: readonly T[], of: (row: T) => Record<string, unknown>): DataPart => rows.map(of);
  return {
    format: 'zest-bell/student-data@1',
    madeAt: formatInstant(now, parts.timeZone),
    course: { code: parts.code, title: parts.title },
    person: { ...person, enrolledAt: when(person.enrolledAt) },
    activity: part(await em.find(EventRow, { course, person: student }, FRESH), (e) => ({
      ...{ at: when(e.at), kind: e.kind, item: item(e.item) },
    })),
    grades: part(await em.find(GradeRow, { course, person: student }, FRESH), (g) => ({
      ...{ at: when(g.at), item: item(g.item), criterion: g.criterion, points: g.points },
    })),
    takenBack: part(takenBack, (r) => ({
      ...{ at: when(r.at), what: r.kind ?? r.fact, item: item(r.item), takenBackAt: when(r.retractedAt) },
      ...{ by: name(r.by), reason: r.reason },
    })),
    nudges: part(nudges, (n) => ({
      ...{ at: when(n.roundAt), rule: n.rule, state: n.state, subject: n.subject, because: n.evidence },
      ...{ decidedBy: name(n.decidedBy), dismissedFor: n.dismissedFor },
    })),
    mail: part(await em.find(AttemptRow, { course, nudge: { $in: ids } }, FRESH), (a) => ({
      ...{ at: when(a.at), to: `${a.recipientName} <${a.address}>`, from: a.fromAddress, outcome: a.outcome },
      ...{ subject: a.subject, text: a.body, files: a.files },
    })),
    replies: part(await em.find(ReplyRow, { course, nudge: { $in: ids } }, FRESH), (r) => ({
      ...{ at: when(r.at), kind: r.kind, from: r.fromAddress, subject: r.subject, text: r.text },
    })),
    answers: part(answers, (m) => ({
      ...{ at: when(m.at), by: name(m.by), subject: m.subject, text: m.text },
    })),
    notes: part(await em.find(NoteRow, { course, student }, FRESH), (n) => ({ at: when(n.at), text: n.text })),
    setAside: part(aside, (a) => ({
      ...{ at: when(a.setAt), until: when(a.until), by: name(a.setBy), note: a.note },
    })),
    heldBack: part(await em.find(RefusalRow, { course, student }, FRESH), (r) => ({
      ...{ from: when(r.firstRound), to: when(r.lastRound), rule: r.rule, reason: r.reason, rounds: r.rounds },
    })),
    statements: part(
      (await em.find(StatementRow, { course, json: { $like: `%${person.email ?? person.id}%` } }, FRESH)).slice(
        0,
        10_000,
      ),
      (s) => JSON.parse(s.json) as Record<string, unknown>,
    ),
    changes: part(changes, (c) => ({ at: when(c.at), by: name(c.by), what: c.title })),
    seenBy: accounts.map((a) => a.name).sort(),
  };
}

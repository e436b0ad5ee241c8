/** Everything that is known of one student, as one file that reads well: of each table what its declaration says is about them. */
import type { InferEntity, EntitySchema } from '@mikro-orm/core';
import type { DataPart, StudentData } from '@zest-bell/core/exchange';
import type { Item } from '@zest-bell/core/course';
import { formatInstant } from '@zest-bell/core/time';
import type { LiveCourse } from '../course/activity/live.ts';
import { Access, Account } from '../access/entity.ts';
import { actorNames } from '../access/audit.ts';
import { EventRow, GradeRow, RetractedRow } from '../course/activity/entity.ts';
import { AsideRow } from '../course/entity.ts';
import { ChangeRow } from '../intake/changes/entity.ts';
import { StatementRow } from '../intake/statements/entity.ts';
import { AttemptRow } from '../mail/nudges/attempt.ts';
import { NudgeRow, RefusalRow } from '../mail/nudges/entity.ts';
import { PlainMailRow } from '../mail/plainMail/entity.ts';
import { ReplyRow } from '../mail/replies/entity.ts';
import type { Em } from '../platform/database/orm.ts';
import { inSlices } from '../platform/database/query.ts';
import type { ErasedStudent } from '../platform/database/holds.ts';
import { RuleRow } from '../rules/entity.ts';
import { ruleName } from '../rules/repository.ts';
import { NoteRow } from '../desk/notes/entity.ts';
import { AppError } from '../platform/errors/errors.ts';
import { calledElsewhere } from './erase.ts';
import { erasedStudent } from './named.ts';
import { holdsOf, knownIn, nameOf } from './rowsOf.ts';

/** Throws `notFound`. */
export async function dataOf(
  em: Em,
  { id: course, course: parts }: LiveCourse,
  student: string,
  now: number,
): Promise<StudentData> {
  const person = parts.people[parts.personIndex.get(student) ?? -1];
  if (person?.role !== 'student') throw new AppError('notFound');
  const who = erasedStudent(person, person.id, await calledElsewhere(em, course, person.id));
  const rows = <E extends EntitySchema>(entity: E) => theirRows(em, entity, course, who);
  const when = (at: number | null | undefined) => (at == null ? null : formatInstant(at, parts.timeZone));
  const items = new Map(parts.items.map((i) => [i.id, i.title]));
  const item = (key: string | null | undefined) => (key == null ? null : (items.get(key) ?? key));
  const ruleRows = await em.find(RuleRow, { course }, { disableIdentityMap: true });
  const ruleNames = new Map(ruleRows.map((row) => [row.key, ruleName(row)]));
  const rule = (key: string | null | undefined) => (key == null ? null : (ruleNames.get(key) ?? key));
  const staff = await em.find(Access, { course }, { disableIdentityMap: true });
  const accounts = await em.find(Account, { id: { $in: staff.map((a) => a.account) } }, { disableIdentityMap: true });
  const nudges = await rows(NudgeRow);
  const takenBack = await rows(RetractedRow);
  const answers = await rows(PlainMailRow);
  const aside = await rows(AsideRow);
  const changes = await rows(ChangeRow);
  const did = [...takenBack, ...answers, ...changes].map((r) => r.by);
  const name = await actorNames(em, [...did, ...nudges.map((n) => n.decidedBy), ...aside.map((a) => a.setBy)]);
  const part = <T>(all: readonly T[], of: (row: T) => Record<string, unknown>): DataPart => all.map(of);
  return {
    format: 'zest-bell/student-data@1',
    madeAt: formatInstant(now, parts.timeZone),
    course: { code: parts.code, title: parts.title },
    person: { ...person, enrolledAt: when(person.enrolledAt) },
    activity: part(await rows(EventRow), (e) => ({ at: when(e.at), kind: e.kind, item: item(e.item) })),
    grades: part(await rows(GradeRow), (g) => ({
      at: when(g.at),
      item: item(g.item),
      criterion: g.criterion,
      points: g.points,
    })),
    takenBack: part(takenBack, (r) => ({
      at: when(r.at),
      what: r.kind ?? r.fact,
      item: item(r.item),
      takenBackAt: when(r.retractedAt),
      by: name(r.by),
      reason: r.reason,
    })),
    nudges: part(nudges, (n) => ({
      at: when(n.roundAt),
      rule: rule(n.rule),
      state: n.state,
      subject: n.subject,
      because: n.evidence,
      edited: n.edited,
      decidedBy: name(n.decidedBy),
      dismissedFor: n.dismissedFor,
    })),
    mail: part(await rows(AttemptRow), (a) => ({
      at: when(a.at),
      to: `${a.recipientName} <${a.address}>`,
      from: a.fromAddress,
      replyTo: a.replyTo,
      outcome: a.outcome,
      response: a.response,
      subject: a.subject,
      text: a.body,
      files: a.files,
      because: a.evidence,
    })),
    replies: part(await rows(ReplyRow), (r) => ({
      at: when(r.at),
      kind: r.kind,
      from: `${r.fromName} <${r.fromAddress}>`,
      subject: r.subject,
      text: r.text,
    })),
    answers: part(answers, (m) => ({ at: when(m.at), kind: m.kind, by: name(m.by), subject: m.subject, text: m.text })),
    notes: part(await rows(NoteRow), (n) => ({ at: when(n.at), text: n.text })),
    setAside: part(aside, (a) => ({ at: when(a.setAt), until: when(a.until), by: name(a.setBy), note: a.note })),
    heldBack: part(await rows(RefusalRow), (r) => ({
      from: when(r.firstRound),
      to: when(r.lastRound),
      rule: rule(r.rule),
      reason: r.reason,
      rounds: r.rounds,
      because: r.evidence,
    })),
    statements: part(
      (await rows(StatementRow)).slice(0, MOST_STATEMENTS),
      (s) => JSON.parse(s.json) as Record<string, unknown>,
    ),
    changes: part(changes, (c) => ({
      at: when(c.at),
      by: name(c.by),
      what: c.title,
      // Of them alone: an item may name others.
      changed: c.changes.people.flatMap(({ id, before, after }) => (id === student ? [{ before, after }] : [])),
      items: c.changes.items.flatMap(({ before, after }) =>
        [before, after].some((i) => i && isTreatedApart(i, student)) ? [(after ?? before)!.title] : [],
      ),
    })),
    seenBy: accounts.map((a) => a.name).sort(),
  };
}

/** Whether an item has something of its own for a student. */
const isTreatedApart = ({ excused, extensions }: Item, student: string): boolean =>
  excused.includes(student) || extensions.some((e) => e.person === student);

/** Statements that one file holds, the earliest. */
const MOST_STATEMENTS = 10_000;

/** What a table knows of the student, in the order of its ids. */
async function theirRows<E extends EntitySchema>(
  em: Em,
  entity: E,
  course: number,
  who: ErasedStudent,
): Promise<InferEntity<E>[]> {
  const known = await knownIn(em, holdsOf(nameOf({ entity })), course, who);
  const keys = [...known].toSorted((a, b) => Number(a) - Number(b));
  const rows: InferEntity<E>[] = [];
  const inOrder = { disableIdentityMap: true, orderBy: { id: 'asc' } } as never;
  for (const slice of inSlices(keys))
    rows.push(...((await em.find(entity as never, { id: { $in: slice } }, inOrder)) as InferEntity<E>[]));
  return rows;
}

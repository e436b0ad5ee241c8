/** Keeping statements, and what each becomes in its course: events, grades, or a line that waits for somebody's choice. */
import { latestActAt } from '@zest-bell/core/activity';
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Instant } from '@zest-bell/core/time';
import {
  courseDraft,
  knownOf,
  RefusedRow,
  importCaliper,
  importStatement,
  VOIDED,
  type CaliperEvent,
  type CourseMeanings,
  type ImportDraft,
} from '@zest-bell/core/imports';
import { EventRow, GradeRow, retractedHolds, eventHolds, gradeHolds } from '../../course/activity/entity.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import { appendFacts, dropHistoryInMemory } from '../changes/apply.ts';
import { courseHolds } from '../../course/entity.ts';
import { inCourse } from '../../course/lock.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { inSlices, select } from '../../platform/database/query.ts';
import type { IntakeServices } from '../services.ts';
import { StatementRow, statementHolds } from './entity.ts';
import { StatementRefused } from './entrance.ts';
import { actorKey, digestOf, type Statement } from './schema.ts';
import { insertManyRows, insertRow, removeRows, updateRows, updateRow } from '../../platform/database/writing.ts';

export interface ReceivedStatement {
  readonly id: string;
  readonly statement: Statement;
}

const draftOf = (live: LiveCourse, now: Instant): ImportDraft => {
  const meanings: CourseMeanings = live.row.meanings;
  const draft = courseDraft(live.course, knownOf(live.facts.history), latestActAt(now));
  draft.choices = meanings;
  return draft;
};

type NewStatement = Pick<
  StatementRow,
  | 'course'
  | 'statement'
  | 'json'
  | 'digest'
  | 'actor'
  | 'verb'
  | 'activity'
  | 'registration'
  | 'storedAt'
  | keyof StatementOutcome
>;

/** Statements that are kept before others get their turn. */
const A_TURN = 50;

/** Keeps statements, all or none. Throws `StatementRefused`. */
export async function keepStatements(
  em: Tx<'course'>,
  live: LiveCourse,
  sent: readonly ReceivedStatement[],
  now: Instant,
  authority: object,
): Promise<void> {
  const draft = draftOf(live, now);
  const course = live.id;
  const digests = await knownDigests(em, course, sent);
  const voided: { readonly target: string; readonly by: string }[] = [];
  const rows: NewStatement[] = [];
  for (const [i, { id, statement }] of sent.entries()) {
    if (i % A_TURN === A_TURN - 1) await nextTurn();
    const digest = digestOf(statement);
    const known = digests.get(id);
    if (known !== undefined) {
      if (known !== digest)
        throw new StatementRefused(409, `There is a statement ${id} already, and it says something else`);
      continue;
    }
    const stored = new Date(now).toISOString();
    const whole = {
      ...statement,
      id,
      timestamp: statement.timestamp ?? stored,
      stored,
      authority,
      version: statement.version ?? '1.0.0',
    };
    const fate = statement.verb.id === VOIDED ? NOTHING : fateOf(whole, draft, live.row.meanings, now);
    rows.push({
      course,
      statement: id,
      json: JSON.stringify(whole),
      digest,
      actor: actorKey(statement.actor),
      verb: statement.verb.id,
      activity: 'id' in statement.object && typeof statement.object.id === 'string' ? statement.object.id : null,
      registration: statement.context?.registration?.toLowerCase() ?? null,
      storedAt: now,
      ...fate,
    });
    if (statement.verb.id === VOIDED)
      voided.push({ target: (statement.object as { id: string }).id.toLowerCase(), by: id });
  }
  for (const slice of inSlices(rows, A_TURN)) {
    await insertManyRows(em, statementHolds, slice);
    await nextTurn();
  }
  await appendFacts(em, course, draft.facts);
  // Last: a statement may void one of the same batch.
  let gone = 0;
  for (const { target, by } of voided) gone += await voidTarget(em, course, target, by, now);
  if (gone > 0) await dropHistoryInMemory(em, course);
  await updateRows(em, courseHolds, { id: course }, { heardAt: now });
}

/** Keeps events of Caliper, each id once. Returns how many were new. */
export async function keepCaliper(
  em: Tx<'course'>,
  live: LiveCourse,
  events: readonly CaliperEvent[],
  now: Instant,
): Promise<number> {
  const draft = draftOf(live, now);
  const course = live.id;
  const idOf = (e: CaliperEvent) => e.id.toLowerCase();
  const known = await knownDigests(
    em,
    course,
    events.map((e) => ({ id: idOf(e) })),
  );
  const fresh = [...new Map(events.map((e) => [idOf(e), e])).values()].filter((e) => !known.has(idOf(e)));
  const rows: (NewStatement & Pick<StatementRow, 'standard'>)[] = [];
  for (const [i, event] of fresh.entries()) {
    if (i % A_TURN === A_TURN - 1) await nextTurn();
    const { actor, object } = event;
    const nameOf = (of: string | { readonly id: string }) => (typeof of === 'string' ? of : of.id);
    rows.push({
      course,
      statement: idOf(event),
      standard: 'caliper',
      json: JSON.stringify(event),
      digest: '',
      actor: nameOf(actor).slice(0, 500),
      verb: `${event.type} ${event.action}`.slice(0, 200),
      activity: nameOf(object).slice(0, 2000),
      registration: null,
      storedAt: now,
      ...fateOf(event, draft, live.row.meanings, now, 'caliper'),
    });
  }
  for (const slice of inSlices(rows, A_TURN)) {
    await insertManyRows(em, statementHolds, slice);
    await nextTurn();
  }
  await appendFacts(em, course, draft.facts);
  await updateRows(em, courseHolds, { id: course }, { heardAt: now });
  return rows.length;
}

/** What is kept under these ids already. */
async function knownDigests(
  em: Em,
  course: number,
  sent: readonly { readonly id: string }[],
): Promise<ReadonlyMap<string, string>> {
  const known = new Map<string, string>();
  for (const slice of inSlices(sent.map((s) => s.id))) {
    const kept = await select(em, statementHolds, ['statement', 'digest'], (query) =>
      query.where({ course }).whereIn('statement', slice),
    );
    for (const { statement, digest } of kept) known.set(statement, digest);
  }
  return known;
}

type StatementOutcome = Pick<StatementRow, 'state' | 'about' | 'said' | 'why'>;
const NOTHING: StatementOutcome = { state: 'nothing', about: null, said: null, why: null };

/** Takes a statement into the draft, or says what keeps it waiting. */
function fateOf(
  statement: object,
  draft: ImportDraft,
  meanings: CourseMeanings,
  now: Instant,
  standard: StatementRow['standard'] = 'xapi',
): StatementOutcome {
  try {
    const outcomes =
      standard === 'caliper'
        ? importCaliper(statement, draft, meanings.verbs)
        : importStatement(statement, draft, { verbs: meanings.verbs, asOf: now });
    return { ...NOTHING, state: outcomes.some((o) => o !== 'same') ? 'taken' : 'nothing' };
  } catch (error) {
    if (!(error instanceof RefusedRow)) throw error;
    const about = error.code === 'verb' ? 'verb' : (error.question?.about ?? 'other');
    const said =
      about === 'verb'
        ? (statement as Statement).verb.id
        : error.question && 'said' in error.question
          ? error.question.said
          : null;
    return {
      state: 'waiting',
      about: about === 'dayOrder' || about === 'over' ? 'other' : about,
      said,
      why: error.message,
    };
  }
}

/**
 * A voided statement counts no longer, and neither does what it became; a voiding one cannot be voided (part 2, 2.3.2). Nothing of it
 * stays managed, so that many in one batch cost what each costs. Returns how many facts are gone.
 */
async function voidTarget(em: Tx<'course'>, course: number, target: string, by: string, now: Instant): Promise<number> {
  const open = { course, statement: target, verb: { $ne: VOIDED }, voided: false };
  if ((await updateRows(em, statementHolds, open, { voided: true })) === 0) return 0;
  const eventId = `xapi:${target}`;
  const kept = {
    course,
    change: 0,
    eventId,
    retractedAt: now,
    by: 'The learning platform',
    reason: `Voided by the statement ${by}`,
  };
  let gone = 0;
  for (const e of await em.find(EventRow, { course, eventId }, { disableIdentityMap: true })) {
    await insertRow(em, retractedHolds, {
      ...kept,
      fact: 'event',
      person: e.person,
      kind: e.kind,
      item: e.item ?? null,
      criterion: null,
      points: null,
      at: e.at,
    });
    gone += await removeRows(em, eventHolds, { id: e.id });
  }
  for (const g of await em.find(GradeRow, { course, eventId }, { disableIdentityMap: true })) {
    await insertRow(em, retractedHolds, {
      ...kept,
      fact: 'grade',
      person: g.person,
      kind: null,
      item: g.item,
      criterion: g.criterion ?? null,
      points: Number(g.points),
      at: g.at,
    });
    gone += await removeRows(em, gradeHolds, { id: g.id });
  }
  return gone;
}

/**
 * Statements that named somebody or something nobody knew, once the course has come to know more: what a platform sends first and
 * explains later is not lost. Returns how many were taken.
 */
export async function retryWaitingStatements(
  { orm, live, clock }: Pick<IntakeServices, 'orm' | 'live' | 'clock'>,
  course: number,
): Promise<number> {
  const open = { course, state: 'waiting', voided: false, about: { $in: ['person', 'item'] } } as const;
  const one = await orm.em.fork().findOne(StatementRow, open, { fields: ['id'] });
  return one ? inCourse(orm, course, async (em) => tryWaiting(em, await live.get(em, course), clock.now())) : 0;
}

/** Statements that wait, tried anew after somebody chose what they mean. Returns how many were taken. */
export async function tryWaiting(em: Tx<'course'>, live: LiveCourse, now: Instant): Promise<number> {
  const draft = draftOf(live, now);
  let taken = 0;
  let last = 0;
  for (;;) {
    const rows = await em.find(
      StatementRow,
      { course: live.id, state: 'waiting', voided: false, id: { $gt: last } },
      { orderBy: { id: 'asc' }, limit: A_TURN },
    );
    for (const row of rows) {
      await updateRow(
        em,
        statementHolds,
        row,
        fateOf(JSON.parse(row.json) as object, draft, live.row.meanings, now, row.standard),
      );
      if (row.state !== 'waiting') taken++;
    }
    em.clear();
    if (rows.length < A_TURN) break;
    last = rows.at(-1)!.id;
    await nextTurn();
  }
  await appendFacts(em, live.id, draft.facts);
  return taken;
}

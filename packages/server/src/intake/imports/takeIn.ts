/** What a file that was read does to its course, within one transaction: in the server, or in the thread that takes large ones. */
import { plural, type Instant } from '@zest-bell/core/time';
import type { Course, SourceName, SourceTimes } from '@zest-bell/core/course';
import { EventList, type ImportKind, type TakenReport } from '@zest-bell/core/imports';
import { applyChange, type StagedEvents } from '../changes/apply.ts';
import { rememberSaidAgain } from '../changes/saidAgain.ts';
import type { ChangeRow } from '../changes/entity.ts';
import { CourseRow, courseHolds } from '../../course/entity.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { ImportMemoryRow, ImportRow, importBytesHolds, importMemoryHolds, importHolds } from '../changes/importRow.ts';
import { headersDigest, remembered, rememberedHeaders } from './read.ts';
import type { FileReading, ReadReport } from './readMessages.ts';
import type { Actor } from '@zest-bell/core/access';
import { withoutErased } from '../../course/erased.ts';
import type { Seal } from '../../platform/process/seal.ts';
import { insertRow, updateRow } from '../../platform/database/writing.ts';
import { rowsOf } from '../../platform/database/query.ts';

export interface ImportToTake {
  readonly course: number;
  readonly import: number;
  readonly by: Actor;
}

/** Events that lie in a table, of which some can be left out within the transaction. */
export interface EventsToMove extends StagedEvents {
  withoutPeople(em: Tx, people: ReadonlySet<string>): Promise<void>;
  /** Leaves out what the course has been told since a row; false where that is too much. */
  withoutToldSince(em: Tx, course: number, row: number): Promise<boolean>;
}

/** A file as it was read, with its events in memory or in a table. */
export type ReadingToTake = Omit<FileReading, 'facts'> & {
  readonly facts: Omit<FileReading['facts'], 'events'> & { readonly events: EventList | EventsToMove };
};

/** What a file was read against. Where one of these has changed, it may mean something else. */
export interface ReadAgainst {
  /** The version of the course, and what was taken back. */
  readonly course: string;
  readonly decisions: string;
  /** The last facts that the course had been told. */
  readonly lastEvent: number;
  readonly lastGrade: number;
}

export async function openRowOf(em: Em, order: ImportToTake): Promise<ImportRow> {
  const row = await em.findOne(ImportRow, { id: order.import, course: order.course });
  if (!row) throw new AppError('notFound');
  if (row.state !== 'open') throw new AppError('importSettled');
  return row;
}

/** How things stand with a course and a file. Read before the course itself, which then is no older. */
export async function standingNow(em: Em, { course, decisions }: ImportRow): Promise<ReadAgainst> {
  const { version, retractions } = await em.findOneOrFail(CourseRow, { id: course }, { refresh: true });
  const last = async (table: 'activity_event' | 'grade') => {
    const [found] = await rowsOf<{ last: number | null }>(
      em,
      em.getKnex()(table).where({ course }).max({ last: 'id' }),
    );
    return Number(found?.last ?? 0);
  };
  return {
    course: `${version} ${retractions}`,
    decisions: JSON.stringify(decisions),
    lastEvent: await last('activity_event'),
    lastGrade: await last('grade'),
  };
}

/** Whether a file that was read still says the same to the course as it is now. */
async function stillFits(em: Tx, row: ImportRow, { found, against }: EarlierReading): Promise<boolean> {
  const now = await standingNow(em, row);
  if (now.course !== against.course || now.decisions !== against.decisions) return false;
  if (now.lastEvent === against.lastEvent && now.lastGrade === against.lastGrade) return true;
  const { report, facts } = found;
  // A file of activity alone: it is enough to leave out the events that the course has by now.
  const isActivity = report.kind === 'activity' && !(row.decisions.isCorrection ?? false) && facts.grades.length === 0;
  if (!isActivity || facts.events instanceof EventList) return false;
  return facts.events.withoutToldSince(em, row.course, against.lastEvent);
}

export interface EarlierReading {
  readonly found: ReadingToTake;
  readonly against: ReadAgainst;
}

export interface TakenImport {
  readonly change: ChangeRow | null;
  /** What its bytes were kept as. */
  readonly file: string | null;
}

/**
 * Takes a file that was read before. Where the course has changed since, it is read once more where `readAgain` may, and otherwise it is
 * `stale`. Throws `importSettled`.
 */
export async function takeIn(
  em: Tx<'course'>,
  { seal, now, before }: { readonly seal: Seal; readonly now: Instant; readonly before: Course },
  order: ImportToTake,
  read: EarlierReading,
  readAgain: ((row: ImportRow) => Promise<ReadingToTake>) | null = null,
): Promise<TakenImport | 'stale'> {
  const row = await openRowOf(em, order);
  const fits = await stillFits(em, row, read);
  if (!fits && readAgain === null) return 'stale';
  const found = fits ? read.found : await readAgain!(row);
  const { file = null } = row;
  const kept = await keptOf(em, seal, order.course, before, found);
  return { change: await applyReading(em, now, before, { ...order, row }, kept), file };
}

async function without(em: Tx, events: EventList | EventsToMove, people: ReadonlySet<string>) {
  if (!(events instanceof EventList)) {
    await events.withoutPeople(em, people);
    return events;
  }
  const kept = new EventList();
  for (const event of events) if (!people.has(event.person)) kept.add(event);
  return kept;
}

/** No file brings back who was erased: their rows are left out, with what they tell. */
async function keptOf(
  em: Tx,
  seal: Seal,
  course: number,
  before: Course,
  found: ReadingToTake,
): Promise<ReadingToTake> {
  const { after, out } = await withoutErased(em, seal, course, before, found.after);
  if (out.size === 0) return found;
  const { facts } = found;
  const grades = facts.grades.filter(({ person }) => !out.has(person));
  return {
    ...found,
    after,
    facts: { ...facts, events: await without(em, facts.events, out), grades },
    report: { ...found.report, erased: out.size },
  };
}

/** Takes a file as it was read against the course as it is. */
export async function applyReading(
  em: Tx<'course'>,
  now: Instant,
  before: Course,
  order: Omit<ImportToTake, 'import'> & { readonly row: ImportRow },
  { report, facts, again, after, refused }: ReadingToTake,
): Promise<ChangeRow | null> {
  const { row, course, by } = order;
  const isCorrection = row.decisions.isCorrection ?? false;
  const kind = isCorrection ? 'correction' : 'import';
  const title = `${titleOf(row.name, report, isCorrection)}${erasedWords(report)}`;
  const change = await applyChange(em, before, after, { course, kind, by, now, title }, facts);
  const saidAgain = isCorrection ? 0 : await rememberSaidAgain(em, course, row.id, again);
  await updateRow(em, importHolds, row, {
    state: 'taken',
    change: change?.id ?? null,
    report: reportOf(report, facts.events.length - (change?.events ?? 0)),
    file: null,
    saidAgain,
  });
  if (refused !== null) await insertRow(em, importBytesHolds, { import: row.id, bytes: Buffer.from(refused) });
  await markSourcesHeard(em, course, sourcesOf(report), now);
  await remember(em, course, row, report);
  return change;
}

/** `told`: how many of its events somebody else has told in the meantime. */
const reportOf = (report: ReadReport, told: number): TakenReport => ({
  kind: report.kind,
  counts: {
    read: report.read,
    new: report.new - told,
    changed: report.changed,
    same: report.same + told,
    refused: report.refusedCount,
  },
  ...(report.leftOut === undefined ? {} : { leftOut: report.leftOut }),
  ...(report.added === undefined ? {} : { added: report.added }),
  refused: report.refused.map(({ said: _said, ...line }) => line),
});

const erasedWords = ({ erased = 0 }: ReadReport): string =>
  erased === 0 ? '' : `, ${plural(erased, 'erased student')} left out`;

function titleOf(name: string, { kind, refusedCount }: ReadReport, isCorrection: boolean): string {
  const what = isCorrection ? 'taken back' : 'imported';
  const rest = refusedCount > 0 ? `, ${plural(refusedCount, 'row')} refused` : '';
  return `${KIND_TITLES[kind]} ${what} from ${name}${rest}`;
}

const KIND_TITLES: Readonly<Record<ImportKind, string>> = {
  roster: 'Roster',
  items: 'Items',
  gradebook: 'Gradebook',
  activity: 'Activity',
  attendance: 'Attendance',
  columns: 'Columns',
  lastSeen: 'Last visits',
  oneroster: 'OneRoster data',
  xapi: 'xAPI statements',
  calendar: 'Calendar',
  scenario: 'Scenario',
};

const SOURCES_OF: Readonly<Record<ImportKind, readonly SourceName[]>> = {
  roster: ['roster'],
  items: [],
  gradebook: ['grades'],
  activity: ['activity'],
  attendance: ['attendance'],
  columns: ['roster'],
  lastSeen: ['activity'],
  oneroster: ['roster', 'grades'],
  xapi: ['activity', 'grades', 'attendance'],
  calendar: [],
  scenario: ['roster', 'activity', 'grades', 'attendance'],
};

/** A sheet tells of whatever its columns are about. */
const SOURCE_OF_COLUMN: Readonly<Record<string, SourceName>> = {
  grade: 'grades',
  attendance: 'attendance',
  doneOn: 'activity',
  lastSeen: 'activity',
};

const sourcesOf = ({ kind, meanings }: ReadReport): readonly SourceName[] => [
  ...new Set([...SOURCES_OF[kind], ...meanings.flatMap(({ as }) => SOURCE_OF_COLUMN[as] ?? [])]),
];

/** Sources told something now. */
export async function markSourcesHeard(
  em: Tx<'course'>,
  course: number,
  sources: readonly SourceName[],
  now: Instant,
): Promise<void> {
  if (sources.length === 0) return;
  const row = await em.findOneOrFail(CourseRow, { id: course }, { refresh: true });
  const heard: SourceTimes = { ...row.sources, ...Object.fromEntries(sources.map((s) => [s, now])) };
  await updateRow(em, courseHolds, row, { sources: heard });
}

async function remember(em: Tx<'course'>, course: number, row: ImportRow, report: ReadReport): Promise<void> {
  if (report.headers.length === 0) return;
  const headers = headersDigest(report.headers);
  // A folder reads as a person last did, and never the other way round.
  if (row.way !== 'hand') return;
  const add = { people: report.added !== undefined && report.added.people > 0, items: (report.added?.items ?? 0) > 0 };
  const decisions = remembered({ ...row.decisions, kind: report.kind, add: { ...add, ...row.decisions.add } });
  const names = rememberedHeaders(report.headers);
  const takenAt = row.at;
  const known = await em.findOne(ImportMemoryRow, { course, headers });
  if (known) await updateRow(em, importMemoryHolds, known, { decisions, names, takenAt });
  else await insertRow(em, importMemoryHolds, { course, headers, names, takenAt, decisions });
}

/** Taking a file: all that fits in one transaction, kept as one change that can be undone. */
import { inCourse } from '../../course/lock.ts';
import { stat } from 'node:fs/promises';
import { plural, type Instant } from '@zest-bell/core/time';
import type { CourseChanges, SourceName, SourceTimes } from '@zest-bell/core/course';
import { EventList, type ImportKind, type TakenReport } from '@zest-bell/core/imports';
import type { LiveCourse } from '../../course/activity/live.ts';
import { applyChange } from '../changes/apply.ts';
import { rememberSaidAgain } from '../changes/saidAgain.ts';
import { retryWaitingStatements } from '../statements/store.ts';
import type { ChangeRow } from '../changes/entity.ts';
import { CourseRow, courseHolds } from '../../course/entity.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import type { IntakeServices } from '../services.ts';
import { ImportMemoryRow, ImportRow, importBytesHolds, importMemoryHolds, importHolds } from '../changes/importRow.ts';
import { headersDigest, remembered, rememberedHeaders, retractedKeys } from './read.ts';
import type { FileToRead, FileReading, ReadReport } from './readMessages.ts';
import type { Actor } from '@zest-bell/core/access';
import { withoutErased } from '../../course/erased.ts';
import type { Seal } from '../../platform/process/seal.ts';
import { insertRow, updateRow } from '../../platform/database/writing.ts';

/** The file of a row that is open. Throws `UnreadableFile` where it is gone. */
export async function fileOf({ brought }: IntakeServices, { name, file }: ImportRow): Promise<FileToRead> {
  const path = brought.pathOf(file ?? '');
  const size = await stat(path).then(
    (found) => found.size,
    () => 0,
  );
  return { name, path, size };
}

/** A file as it would be read now. Throws `importSettled`, `notFound`, `UnreadableFile`. */
export async function readRow(services: IntakeServices, em: Em, course: number, row: ImportRow): Promise<FileReading> {
  if (row.state !== 'open') throw new AppError('importSettled');
  const live = await services.live.get(em, course);
  const retracted = await retractedKeys(em, course);
  const order = { decisions: row.decisions, at: row.at, now: services.clock.now(), retracted };
  return services.files.read(live, await fileOf(services, row), order);
}

export interface ImportToTake {
  readonly course: number;
  readonly import: number;
  readonly by: Actor;
}

/**
 * Takes a file whole. It is read before the lock is asked for, so that nobody waits in the meantime; where the course has changed since, once
 * more, and under the lock only where that goes on. Throws `importSettled`, `UnreadableFile`.
 */
export async function takeImport(services: IntakeServices, order: ImportToTake): Promise<ChangeRow | null> {
  for (let tries = 1; ; tries++) {
    const read = await readBefore(services, order);
    const taken = await inCourse(services.orm, order.course, (em) =>
      takeIn(em, services, order, read, tries === MOST_TRIES),
    );
    if (taken === 'stale') continue;
    await services.brought.forget([taken.file]);
    if (taken.change && namesMore(taken.change.changes)) await retryWaitingStatements(services, order.course);
    return taken.change;
  }
}

/** Whether a change may have brought whom or what statements wait for. */
export const namesMore = ({ people, items }: Pick<CourseChanges, 'people' | 'items'>): boolean =>
  people.length + items.length > 0;

/** How often a file is read beside a course that goes on changing. */
const MOST_TRIES = 3;

/** A file read against the course as it was at a version. */
interface EarlierReading {
  readonly found: FileReading;
  readonly state: string;
  readonly decisions: string;
}

/** What a reading depends on: the course's version, what was taken back, and how far its facts were read. */
const stateOf = ({ row, facts }: LiveCourse): string => [row.version, row.retractions, facts.history.version].join(' ');

async function readBefore(services: IntakeServices, order: ImportToTake): Promise<EarlierReading> {
  const em = services.reading.em.fork();
  const row = await openRowOf(em, order);
  const state = stateOf(await services.live.get(em, order.course));
  const found = await readRow(services, em, order.course, row);
  return { found, state, decisions: JSON.stringify(row.decisions) };
}

async function openRowOf(em: Em, order: ImportToTake): Promise<ImportRow> {
  const row = await em.findOne(ImportRow, { id: order.import, course: order.course });
  if (!row) throw new AppError('notFound');
  if (row.state !== 'open') throw new AppError('importSettled');
  return row;
}

interface ImportResult {
  readonly change: ChangeRow | null;
  /** What its bytes were kept as. */
  readonly file: string | null;
}

/** The same within a transaction; `stale` where the course has changed since the reading and that `mayRead` no more. */
async function takeIn(
  em: Tx<'course'>,
  services: IntakeServices,
  order: ImportToTake,
  read: EarlierReading,
  mayRead: boolean,
): Promise<ImportResult | 'stale'> {
  const row = await openRowOf(em, order);
  const live = await services.live.get(em, order.course);
  const isAsRead = read.state === stateOf(live) && read.decisions === JSON.stringify(row.decisions);
  if (!isAsRead && !mayRead) return 'stale';
  const found = isAsRead ? read.found : await readRow(services, em, order.course, row);
  const { file = null } = row;
  const kept = await keptOf(em, services.seal, order.course, live, found);
  return { change: await applyReading(em, services.clock.now(), live, { ...order, row }, kept), file };
}

function without(events: EventList, isOut: (of: { readonly person: string }) => boolean): EventList {
  const kept = new EventList();
  for (const event of events) if (!isOut(event)) kept.add(event);
  return kept;
}

/** No file brings back who was erased: their rows are left out, with what they tell. */
async function keptOf(em: Tx, seal: Seal, course: number, live: LiveCourse, found: FileReading): Promise<FileReading> {
  const { after, out } = await withoutErased(em, seal, course, live.course, found.after);
  if (out.size === 0) return found;
  const { facts } = found;
  const isOut = ({ person }: { readonly person: string }) => out.has(person);
  return {
    ...found,
    after,
    facts: { ...facts, events: without(facts.events, isOut), grades: facts.grades.filter((g) => !isOut(g)) },
    report: { ...found.report, erased: out.size },
  };
}

/** Takes a file as it was read against the course as it is. */
export async function applyReading(
  em: Tx<'course'>,
  now: Instant,
  live: Pick<LiveCourse, 'course'>,
  order: Omit<ImportToTake, 'import'> & { readonly row: ImportRow },
  { report, facts, again, after, refused }: FileReading,
): Promise<ChangeRow | null> {
  const { row, course, by } = order;
  const isCorrection = row.decisions.isCorrection ?? false;
  const kind = isCorrection ? 'correction' : 'import';
  const title = `${titleOf(row.name, report, isCorrection)}${erasedWords(report)}`;
  const change = await applyChange(em, live.course, after, { course, kind, by, now, title }, facts);
  const saidAgain = isCorrection ? 0 : await rememberSaidAgain(em, course, row.id, again);
  await updateRow(em, importHolds, row, {
    state: 'taken',
    change: change?.id ?? null,
    report: reportOf(report),
    file: null,
    saidAgain,
  });
  if (refused !== null) await insertRow(em, importBytesHolds, { import: row.id, bytes: Buffer.from(refused) });
  await markSourcesHeard(em, course, sourcesOf(report), now);
  await remember(em, course, row, report);
  return change;
}

const reportOf = (report: ReadReport): TakenReport => ({
  kind: report.kind,
  counts: {
    read: report.read,
    new: report.new,
    changed: report.changed,
    same: report.same,
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

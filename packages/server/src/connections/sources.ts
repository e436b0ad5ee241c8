/** Sources of courses: added, pulled by hand or by their schedule, and taken away. What they brought stays. */
import { DAY, HOUR, MINUTE, zoneOf, type Clock } from '@zest-bell/core/time';
import { PULLED_FORMAT, type PeopleCounts, type Pulled, type SourceCard } from '@zest-bell/core/connections';
import pLimit from 'p-limit';
import { CourseRow } from '../course/entity.ts';
import { AppError } from '../platform/errors/errors.ts';
import { OutgoingTrouble } from '../platform/http/outgoing.ts';
import type { Em } from '../platform/database/orm.ts';
import { retryWaitingStatements } from '../intake/statements/store.ts';
import { SourceLinkRow, SourceRow, type SourceTrouble, sourceHolds, sourceLinkHolds } from './entity.ts';
import { oneRosterClient } from './oneRoster/client.ts';
import { askOneRoster } from './oneRoster/pull.ts';
import type { OneRosterInput, OneRosterSettings } from './oneRoster/settings.ts';
import { askPlatform, type LtiSettings } from './lti/services.ts';
import type { ConnectionServices } from './services.ts';
import { importFromSource, type SourceImportCounts } from './importFromSource.ts';
import { shownBy, systemClock, wallClock } from '../platform/process/clock.ts';
import { underLease, untilFree } from '../platform/work/lease.ts';
import { insertRow, removeRows, updateRows } from '../platform/database/writing.ts';
import { inCourse } from '../course/lock.ts';

/** The first hour of a night and how long it is, in UTC: hundreds of courses are asked at a minute of their own each. */
const NIGHT = { from: 2 * HOUR, long: 4 * HOUR };

/** When a source is asked next on its own: a service each hour; a platform, which tells at each launch, each night. */
export const nextAfter = (kind: SourceRow['kind'], now: number): number =>
  kind === 'oneroster' ? now + HOUR : Math.ceil(now / DAY) * DAY + NIGHT.from + Math.floor(Math.random() * NIGHT.long);
/** Sources that are asked at a time. */
const AT_ONCE = 4;
const FIRST_WAIT = 5 * MINUTE;
const LONGEST_WAIT = 24 * HOUR;

const NO_COUNTS: PeopleCounts = { new: 0, changed: 0, same: 0, gone: 0 };

/** What asking a source needs. */
export type PullServices = Pick<
  ConnectionServices,
  'orm' | 'reading' | 'live' | 'clock' | 'seal' | 'sealOutside' | 'outgoing' | 'logger'
>;

const nameOfSource = ({ kind, settings }: Pick<SourceRow, 'kind' | 'settings'>): string =>
  kind === 'oneroster'
    ? `OneRoster at ${new URL((settings as unknown as OneRosterSettings).base).host}`
    : 'the learning platform';

/** Throws `invalidInput` for an address that is not called, `notFound` for a course that is not there. */
export async function addSource(
  { orm, sealOutside, outgoing }: Pick<ConnectionServices, 'orm' | 'sealOutside' | 'outgoing'>,
  { course, kind, clientSecret, ...settings }: OneRosterInput,
): Promise<number> {
  const problems = (['base', 'tokenUrl'] as const).flatMap((path) => {
    const why = outgoing.whyNot(settings[path]);
    return why === null ? [] : [{ path, code: 'address', message: why }];
  });
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  if ((await orm.em.fork().count(CourseRow, { id: course })) === 0)
    throw new AppError('invalidInput', [{ path: 'course', code: 'notFound', message: `There is no course ${course}` }]);
  return inCourse(orm, course, async (tx) => {
    const now = wallClock();
    const row = await insertRow(tx, sourceHolds, {
      course,
      kind,
      settings,
      secret: sealOutside.close(clientSecret),
      // First by a button or a command; on its own an interval later.
      addedAt: now,
      nextAt: nextAfter(kind, now),
    });
    return row.id;
  });
}

export async function removeSource(
  { orm }: Pick<ConnectionServices, 'orm'>,
  id: number,
  course?: number,
): Promise<void> {
  const row = await orm.em.fork().findOne(SourceRow, { id, ...(course === undefined ? {} : { course }) });
  if (!row) throw new AppError('notFound');
  const gone = await inCourse(orm, row.course, async (tx) => {
    await removeRows(tx, sourceLinkHolds, { source: id });
    return removeRows(tx, sourceHolds, { id, course: row.course });
  });
  if (gone === 0) throw new AppError('notFound');
}

/** The process that holds it pulls a source; a process that died holds it no longer than a lease. */
export const leaseOf = (source: number): string => `source ${source}`;

/** Asks at once, whatever was tried before; after a pull that is in progress. Throws `notFound`; what keeps it from answering is in the result. */
export async function pull(services: PullServices, id: number): Promise<Pulled> {
  for (;;) {
    const mine = await underLease(services.orm, leaseOf(id), () => pullIf(services, { id }));
    if (mine?.result === null) throw new AppError('notFound');
    if (mine) return mine.result;
    await untilFree(services.reading, leaseOf(id));
  }
}

/** What the source told, if there is one that is as asked. */
async function pullIf(services: PullServices, is: { id: number; nextAt?: { $lte: number } }): Promise<Pulled | null> {
  const { orm, logger } = services;
  const row = await orm.em.fork().findOne(SourceRow, is, { disableIdentityMap: true });
  if (!row) return null;
  const from = wallClock();
  try {
    const took = await ask(services, row);
    const pulled = pulledOf(row, took, null);
    await settle(services, row, {
      heardAt: from,
      trouble: null,
      tries: 0,
      nextAt: nextAfter(row.kind, wallClock()),
      last: keptOf(pulled),
    });
    return pulled;
  } catch (error) {
    const { code, message, retryAfter } = troubleOf(error);
    if (code === 'failed') logger.error({ err: error, source: row.id }, 'a source could not be taken in');
    const tries = row.tries + 1;
    const pause = Math.min(LONGEST_WAIT, FIRST_WAIT * 2 ** (tries - 1));
    const trouble: SourceTrouble = { code, message, tryAgainAt: wallClock() + Math.max(pause, retryAfter) };
    const pulled = pulledOf(row, null, trouble);
    await settle(services, row, { trouble, tries, nextAt: trouble.tryAgainAt, last: pulled });
    return pulled;
  }
}

/** Entries of a pull that are kept: a service may refuse a hundred thousand, and anyone who reads them mends the first ones. */
export const MOST_REFUSED = 200;

/** What is kept of a pull, for its card. */
interface StoredPull extends Pulled {
  /** None as kept by releases before, which kept all entries. */
  readonly refusedInAll?: number;
}
const keptOf = (pulled: StoredPull): Required<StoredPull> => ({
  ...pulled,
  refused: pulled.refused.slice(0, MOST_REFUSED),
  refusedInAll: pulled.refusedInAll ?? pulled.refused.length,
});

const settle = (
  { orm }: Pick<ConnectionServices, 'orm'>,
  { id, course }: SourceRow,
  set: Partial<SourceRow>,
): Promise<number> => inCourse(orm, course, (tx) => updateRows(tx, sourceHolds, { id, course }, set));

function troubleOf(error: unknown): { code: string; message: string; retryAfter: number } {
  if (error instanceof OutgoingTrouble) return error;
  return { code: 'failed', message: 'What it sent could not be taken in', retryAfter: 0 };
}

async function ask(services: PullServices, row: SourceRow): Promise<SourceImportCounts> {
  const fields = ['archivedAt', 'timeZone'] as const;
  const course = await services.reading.em.fork().findOneOrFail(CourseRow, { id: row.course }, { fields });
  if (course.archivedAt != null) throw new OutgoingTrouble('refused', 'This course is archived and takes no data');
  const { told, refused } =
    row.kind === 'lti'
      ? await askPlatform(services, row.settings as unknown as LtiSettings)
      : await askService(services, row, course.timeZone);
  const took = await importFromSource(services, {
    source: row,
    name: nameOfSource(row),
    told,
    refused,
    sources: ['roster', 'grades'],
  });
  const { people, items } = took;
  if (people.new + people.changed + items.new + items.changed > 0) await retryWaitingStatements(services, row.course);
  return took;
}

async function askService(services: PullServices, row: SourceRow, timeZone: string) {
  const settings = row.settings as unknown as OneRosterSettings;
  const client = oneRosterClient(services.outgoing, settings, services.sealOutside.open(row.secret ?? ''));
  return askOneRoster(client, settings.class, { heardAt: row.heardAt ?? null, zone: zoneOf(timeZone) });
}

const pulledOf = (row: SourceRow, took: SourceImportCounts | null, trouble: SourceTrouble | null): Pulled => ({
  format: PULLED_FORMAT,
  source: row.id,
  people: took?.people ?? NO_COUNTS,
  items: took?.items ?? NO_COUNTS,
  grades: took?.grades ?? NO_COUNTS,
  refused: took?.refused ?? [],
  trouble: trouble && { ...trouble, tryAgainAt: new Date(trouble.tryAgainAt).toISOString() },
});

const line = pLimit(AT_ONCE);

/** Sources that are due, a few at a time; a failure affects only its own source. What another process pulls is left to it. */
export async function pullDue(services: PullServices): Promise<void> {
  const now = wallClock();
  const due = await services.reading.em
    .fork()
    .find(
      SourceRow,
      { nextAt: { $lte: now } },
      { fields: ['id'], orderBy: { nextAt: 'asc' }, disableIdentityMap: true },
    );
  await Promise.all(
    due.map(({ id }) =>
      line(() =>
        underLease(services.orm, leaseOf(id), () => pullIf(services, { id, nextAt: { $lte: now } })).catch(
          (error: unknown) => services.logger.error({ err: error, source: id }, 'a source could not be asked'),
        ),
      ),
    ),
  );
}

export const sourcesOf = (em: Em, course?: number): Promise<SourceRow[]> =>
  em.find(SourceRow, course === undefined ? {} : { course }, { orderBy: { id: 'asc' }, disableIdentityMap: true });

/** Under which ids the sources of a course know somebody of it. */
export async function linksTo(em: Em, course: number, person: string): Promise<SourceLinkRow[]> {
  const own = await em.find(SourceRow, { course }, { fields: ['id'], disableIdentityMap: true });
  return em.find(SourceLinkRow, { source: { $in: own.map((s) => s.id) }, kind: 'person', key: person });
}

/** Its moments as the given clock has them. */
export const cardOf = (row: SourceRow, clock: Clock = systemClock): SourceCard => {
  const { refusedInAll = 0, ...last } = row.last ? keptOf(row.last as StoredPull) : {};
  return {
    id: row.id,
    kind: row.kind,
    name: nameOfSource(row),
    addedAt: shownBy(clock, row.addedAt),
    nextAt: shownBy(clock, row.nextAt),
    of: [row.settings['class'], row.settings['context']].find((of) => typeof of === 'string') ?? '',
    heardAt: row.heardAt == null ? null : shownBy(clock, row.heardAt),
    last: row.last ? (last as Pulled) : null,
    refused: refusedInAll,
  };
};

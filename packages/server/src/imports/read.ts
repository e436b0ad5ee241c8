/** A file read against a course: what it would change, before anything does. */
import { createHash } from 'node:crypto';
import {
  courseDraft,
  diffCourses,
  draftedCourse,
  eventKey,
  gradeKey,
  importFileInParts,
  knownOf,
  plainTitle,
  REASON_HEADER,
  sourceOf,
  titleParts,
  UnreadableFile,
  type Course,
  type CourseChanges,
  type CourseMeanings,
  type CourseParts,
  type Draft,
  type FileInput,
  type ImportDecisions,
  type InParts,
  type KnownFacts,
  type Instant,
  type ReadFile,
} from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import { RetractedRow } from '../activity/entity.ts';
import type { Em } from '../platform/orm.ts';
import { openFile } from './archive.ts';
import { ImportMemoryRow } from './entity.ts';

/** Clocks of those who export may run a little ahead of ours, in ms. */
const AHEAD = 5 * 60_000;

export interface Reading {
  readonly report: ReadFile;
  readonly draft: Draft;
  readonly after: CourseParts;
  readonly changes: CourseChanges;
}

export interface ReadOrder {
  readonly decisions: ImportDecisions;
  /** When it was brought: what has no instant happened then. */
  readonly at: Instant;
  readonly now: Instant;
  /** Keys of facts that were taken back, which no file brings again. */
  readonly retracted: ReadonlySet<string>;
}

/** The course that a file is read against, with what is known of it. */
export interface ReadAgainst {
  readonly course: Course;
  readonly known: KnownFacts;
  readonly meanings: CourseMeanings;
}

export const against = ({ course, facts, row }: LiveCourse): ReadAgainst => ({
  course,
  known: knownOf(facts.history),
  meanings: row.meanings,
});

/** Throws `UnreadableFile`. */
export function* readImport(to: ReadAgainst, file: FileInput, order: ReadOrder): InParts<Reading> {
  const { decisions } = order;
  const { course, meanings } = to;
  const draft = courseDraft(course, { ...to.known, retracted: order.retracted }, order.now + AHEAD);
  const report = yield* importFileInParts(file, draft, {
    ...decisions,
    asOf: decisions.asOf ?? order.at,
    add: additionsOf(decisions, course),
    verbs: meanings.verbs,
    choices: {
      people: { ...meanings.people, ...decisions.choices?.people },
      items: { ...meanings.items, ...decisions.choices?.items },
      over: decisions.choices?.over,
    },
  });
  if (decisions.missing === 'inactive') {
    const missing = new Set(report.missing);
    for (const person of draft.json.people) if (missing.has(person.id)) person.active = false;
  }
  const after = draftedCourse(draft, course);
  return { report, draft, after, changes: diffCourses(course, after) };
}

/** What is added of what the course lacks: as somebody said, else while it has none of that sort. */
export const additionsOf = (
  { add }: ImportDecisions,
  { people, items }: Pick<Course, 'people' | 'items'>,
): { readonly people: boolean; readonly items: boolean } => ({
  people: add?.people ?? !people.some((p) => p.role === 'student'),
  items: add?.items ?? items.length === 0,
});

export async function retractedKeys(em: Em, course: number): Promise<ReadonlySet<string>> {
  const rows = await em.find(RetractedRow, { course }, { disableIdentityMap: true });
  return new Set(
    rows.map(({ person, kind, item, criterion, points, at }) =>
      kind === null || kind === undefined
        ? gradeKey({ person, item: item ?? '', criterion: criterion ?? null, points: Number(points), at })
        : eventKey({ person, kind, item: item ?? null, at }),
    ),
  );
}

/** Headers as they are compared from file to file: points in brackets may change. */
export const rememberedHeaders = (headers: readonly string[]): string[] => [
  ...new Set(headers.filter((h) => h !== '' && h !== REASON_HEADER).map((h) => plainTitle(titleParts(h).title))),
];

/** Names the memory of a file's headers. */
export const headersDigest = (headers: readonly string[]): string =>
  createHash('sha256')
    .update(JSON.stringify(rememberedHeaders(headers).toSorted()))
    .digest('base64url');

/** The memory of the file last taken by hand all of whose headers a file has ([F18]); null where there is none. */
export async function memoryOf(em: Em, course: number, headers: readonly string[]): Promise<ImportMemoryRow | null> {
  const own = new Set(rememberedHeaders(headers));
  const rows = await em.find(ImportMemoryRow, { course }, { orderBy: { takenAt: 'desc' }, disableIdentityMap: true });
  return rows.find((row) => row.names.length > 0 && row.names.every((name) => own.has(name))) ?? null;
}

/** What the next file of the same headers is read by: how, and not what somebody decided about this one. */
export const remembered = ({ kind, told, sheet, dayOrders, choices, add }: ImportDecisions): ImportDecisions => ({
  ...(kind === undefined ? {} : { kind }),
  ...(told === undefined ? {} : { told }),
  ...(sheet === undefined ? {} : { sheet }),
  ...(dayOrders === undefined ? {} : { dayOrders }),
  ...(add === undefined ? {} : { add }),
  // Scores above the points possible are asked about in each file anew.
  ...(choices === undefined ? {} : { choices: { people: choices.people, items: choices.items } }),
});

/** As the last file with the same headers was read. */
export async function decisionsBefore(em: Em, course: number, name: string, bytes: Buffer): Promise<ImportDecisions> {
  try {
    const source = sourceOf(await openFile(name, bytes));
    if (source.form !== 'table') return {};
    const known = await memoryOf(em, course, source.table.headers);
    return known ? remembered(known.decisions) : {};
  } catch (error) {
    if (error instanceof UnreadableFile) return {};
    throw error;
  }
}

/** What a file says is compared in small letters. */
export function lowered(decisions: ImportDecisions): ImportDecisions {
  const low = <T>(choices: Readonly<Record<string, T>> | undefined) =>
    choices && Object.fromEntries(Object.entries(choices).map(([said, choice]) => [said.trim().toLowerCase(), choice]));
  const { people, items, over } = decisions.choices ?? {};
  return { ...decisions, ...(decisions.choices ? { choices: { people: low(people), items: low(items), over } } : {}) };
}

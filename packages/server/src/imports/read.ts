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
  REASON_HEADER,
  sourceOf,
  UnreadableFile,
  type CourseChanges,
  type CourseMeanings,
  type CourseParts,
  type Draft,
  type FileInput,
  type ImportDecisions,
  type InParts,
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

/** Throws `UnreadableFile`. */
export function* readImport(live: LiveCourse, file: FileInput, order: ReadOrder): InParts<Reading> {
  const { decisions } = order;
  const meanings: CourseMeanings = live.row.meanings;
  const draft = courseDraft(
    live.course,
    { ...knownOf(live.facts.history), retracted: order.retracted },
    order.now + AHEAD,
  );
  const report = yield* importFileInParts(file, draft, {
    ...decisions,
    asOf: decisions.asOf ?? order.at,
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
  const after = draftedCourse(draft, live.course);
  return { report, draft, after, changes: diffCourses(live.course, after) };
}

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

/** Files with the same headers are read as the last one was. */
export const headersDigest = (headers: readonly string[]): string =>
  createHash('sha256')
    .update(JSON.stringify(headers.filter((h) => h !== REASON_HEADER)))
    .digest('base64url');

/** What the next file of the same headers is read by: how, and not what somebody decided about this one. */
export const remembered = ({ kind, told, sheet, dayOrders, choices }: ImportDecisions): ImportDecisions => ({
  ...(kind === undefined ? {} : { kind }),
  ...(told === undefined ? {} : { told }),
  ...(sheet === undefined ? {} : { sheet }),
  ...(dayOrders === undefined ? {} : { dayOrders }),
  // Scores above the points possible are asked about in each file anew.
  ...(choices === undefined ? {} : { choices: { people: choices.people, items: choices.items } }),
});

/** As the last file with the same headers was read. */
export async function decisionsBefore(em: Em, course: number, name: string, bytes: Buffer): Promise<ImportDecisions> {
  try {
    const source = sourceOf(await openFile(name, bytes));
    if (source.form !== 'table') return {};
    const known = await em.findOne(ImportMemoryRow, { course, headers: headersDigest(source.table.headers) });
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

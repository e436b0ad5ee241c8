/** What is known of files beside their bytes: facts that were taken back, and how such files were read before. */
import { createHash } from 'node:crypto';
import {
  eventKey,
  gradeKey,
  plainTitle,
  REASON_HEADER,
  titleParts,
  type ImportDecisions,
} from '@zest-bell/core/imports';
import { RetractedRow } from '../../course/activity/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { ImportMemoryRow } from '../changes/importRow.ts';
import type { FileReader } from './fileReader.ts';
import type { FileToRead, TableHead } from './readMessages.ts';

/** Keys of facts that were taken back, which no file brings again. */
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

/** The decisions of the latest manual import of a file with the same headers, all of them ([F18]); null without such an import. */
export async function memoryOf(em: Em, course: number, head: TableHead): Promise<ImportDecisions | null> {
  const rows = await em.find(ImportMemoryRow, { course }, { orderBy: { takenAt: 'desc' }, disableIdentityMap: true });
  const has = (own: ReadonlySet<string>, { names }: ImportMemoryRow) => names.every((name) => own.has(name));
  const headers = new Set(rememberedHeaders(head.headers));
  for (const row of rows.filter(({ names }) => names.length > 0)) {
    if (row.decisions.header === undefined) {
      if (has(headers, row)) return row.decisions;
      continue;
    }
    // The header was chosen by hand: look for a row with the same texts.
    const rows = [{ line: head.headerLine, cells: head.headers }, ...head.firstRows];
    const chosen = rows.find(({ cells }) => has(new Set(rememberedHeaders(cells)), row));
    if (chosen?.line != null) return { ...row.decisions, header: chosen.line };
  }
  return null;
}

/** What the next file of the same headers is read by: how, and not what somebody decided about this one. */
export const remembered = ({
  kind,
  told,
  sheet,
  header,
  isSure,
  dayOrders,
  choices,
  add,
}: ImportDecisions): ImportDecisions => ({
  ...(kind === undefined ? {} : { kind }),
  ...(told === undefined ? {} : { told }),
  ...(sheet === undefined ? {} : { sheet }),
  ...(header === undefined ? {} : { header }),
  ...(isSure === undefined ? {} : { isSure }),
  ...(dayOrders === undefined ? {} : { dayOrders }),
  ...(add === undefined ? {} : { add }),
  // Scores above the points possible are asked about in each file anew.
  ...(choices === undefined ? {} : { choices: { people: choices.people, items: choices.items } }),
});

/** As the last file with the same headers was read. */
export async function decisionsBefore(
  files: Pick<FileReader, 'head'>,
  em: Em,
  course: number,
  file: FileToRead,
): Promise<ImportDecisions> {
  const head = await files.head(file);
  const known = head && (await memoryOf(em, course, head));
  return known ? remembered(known) : {};
}

/** What a file says is compared in small letters. */
export function lowered(decisions: ImportDecisions): ImportDecisions {
  const low = <T>(choices: Readonly<Record<string, T>> | undefined) =>
    choices && Object.fromEntries(Object.entries(choices).map(([said, choice]) => [said.trim().toLowerCase(), choice]));
  const { people, items, over } = decisions.choices ?? {};
  return { ...decisions, ...(decisions.choices ? { choices: { people: low(people), items: low(items), over } } : {}) };
}

/** What came of the nudges, as it is shown: a line each, counts with their whole. */
import type { CameLine } from '../outcomes/cameOfIt.ts';
import { number, text, type ExportCell, type ExportTable } from './table.ts';

export function outcomesTable(
  course: { readonly code: string; readonly timeZone: string },
  by: string,
  lines: readonly { readonly name: string; readonly line: CameLine }[],
): ExportTable {
  return {
    name: `${course.code} what came of it`,
    zone: course.timeZone,
    columns: [
      text(by),
      ...['Sent', 'Too recent to tell', 'Came back within two weeks', 'Of', 'Replied', 'Of those sent'].map(number),
    ],
    rows: lines.map(({ name, line: { result } }): ExportCell[] => [
      ...[name, result.sent, result.open, result.returns?.count ?? null, result.returns?.of ?? null],
      ...[result.replies.count, result.replies.of],
    ]),
  };
}

/** Signs that a people sheet was not read as its author meant it ([F22]). */
import type { ColumnMeaning } from './meanings.ts';
import type { Survey } from './survey.ts';
import type { FieldName } from '../read/headers.ts';
import type { TextTable } from '../read/table.ts';

/** `header`: another row may be the header. */
export const DOUBTS = ['header'] as const;
export type Doubt = (typeof DOUBTS)[number];

/** The largest share of filled columns without a header that raises no doubt. */
const MOST_UNNAMED = 1 / 3;

/**
 * How many columns have data, how many of those have no header, and whether this raises a doubt. A first column of names needs no header
 * and is not counted.
 */
export function unnamedColumns(
  columns: readonly { readonly header: string; readonly filled: number; readonly field: FieldName | null }[],
): { readonly filled: number; readonly unnamed: number; readonly areTooMany: boolean } {
  const filled = columns.filter((c, place) => c.filled > 0 && !(place === 0 && c.header === '' && c.field === 'name'));
  const unnamed = filled.filter((c) => c.header === '').length;
  return { filled: filled.length, unnamed, areTooMany: unnamed > MOST_UNNAMED * filled.length };
}

export function doubtsOf(
  { headers }: Pick<TextTable, 'headers'>,
  { columns }: Pick<Survey, 'columns'>,
  meanings: readonly ColumnMeaning[],
): readonly Doubt[] {
  const { areTooMany } = unnamedColumns(
    headers.map((header, place) => {
      const meaning = meanings[place]!;
      return { header, filled: columns[place]!.filled, field: meaning.as === 'field' ? meaning.field : null };
    }),
  );
  const namesAddresses = meanings.some((m) => m.as === 'field' && (m.field === 'id' || m.field === 'email'));
  const hidesAddresses = meanings.some(
    ({ as }, place) => (as === 'leftOut' || as === 'own') && columns[place]!.addresses * 2 > columns[place]!.filled,
  );
  return areTooMany || (!namesAddresses && hidesAddresses) ? ['header'] : [];
}

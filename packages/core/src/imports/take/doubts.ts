/** What makes it doubtful that a sheet of people was read as it was meant ([F22]). */
import type { ColumnMeaning } from './meanings.ts';
import type { Survey } from './survey.ts';
import type { Table } from '../read/table.ts';

/** `header`: another row than the one that was taken may be the header. */
export const DOUBTS = ['header'] as const;
export type Doubt = (typeof DOUBTS)[number];

/** A sheet is doubted where more than this share of its filled columns has no header. */
const MOST_UNNAMED = 1 / 3;

export function doubtsOf(
  { headers }: Pick<Table, 'headers'>,
  { columns, firstIsName }: Pick<Survey, 'columns' | 'firstIsName'>,
  meanings: readonly ColumnMeaning[],
): readonly Doubt[] {
  const filled = columns.flatMap((c, place) => (c.filled > 0 && !(place === 0 && firstIsName) ? [place] : []));
  const unnamed = filled.filter((place) => headers[place] === '');
  const namesAddresses = meanings.some((m) => m.as === 'field' && (m.field === 'id' || m.field === 'email'));
  const hidesAddresses = meanings.some(
    ({ as }, place) => (as === 'leftOut' || as === 'own') && columns[place]!.addresses * 2 > columns[place]!.filled,
  );
  return unnamed.length > MOST_UNNAMED * filled.length || (!namesAddresses && hidesAddresses) ? ['header'] : [];
}

/** A condition on one column of a sheet, for choosing its rows. */
export const FILTER_OPERATORS = ['filled', 'empty', 'equals', 'contains', 'over', 'under'] as const;
export type FilterOperator = (typeof FILTER_OPERATORS)[number];

export interface RowFilter {
  readonly column: number;
  readonly operator: FilterOperator;
  readonly value: string;
}

const numberIn = (text: string): number | null => {
  const plain = text.trim().replace(/%$/, '');
  return /^-?(\d+\.?\d*|\.\d+)$/.test(plain) ? Number(plain) : null;
};

/** Texts are compared without regard to case; a text is neither over nor under a number. */
export function fitsFilter(cells: readonly string[], { column, operator, value }: RowFilter): boolean {
  const cell = (cells[column] ?? '').trim();
  const [low, wanted] = [cell.toLowerCase(), value.trim().toLowerCase()];
  const [n, than] = [numberIn(cell), numberIn(value)];
  switch (operator) {
    case 'filled':
      return cell !== '';
    case 'empty':
      return cell === '';
    case 'equals':
      return n !== null && than !== null ? n === than : low === wanted;
    case 'contains':
      return wanted !== '' && low.includes(wanted);
    case 'over':
      return n !== null && than !== null && n > than;
    case 'under':
      return n !== null && than !== null && n < than;
  }
}

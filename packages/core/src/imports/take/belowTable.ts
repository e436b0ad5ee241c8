/** What stands below the table of a sheet of people: notes, and other tables. Common practice, no source. */
import type { TableRow } from '../read/table.ts';

/** More words than a name has. */
const MOST_WORDS_OF_NAME = 6;

/** A sentence in the place of a name, and nothing beside it. */
function isNote(filled: readonly string[]): boolean {
  if (filled.length !== 1) return false;
  const text = filled[0]!.trim();
  return /[.!?:]$/.test(text) || text.split(' ').length > MOST_WORDS_OF_NAME;
}

/**
 * Tells rows of the table from what stands below it, row by row. Behind an empty row, what has no address where the rows above have one, or has
 * one cell alone, is no row of the table; nor is what follows it, until a row has an address, or several cells where the table has no
 * addresses.
 */
export class BelowTable {
  /** The place of the column of addresses; −1 for none. */
  private readonly address: number;
  private last: number | null = null;
  private rows = 0;
  private addresses = 0;
  private isBelow = false;

  constructor(address: number) {
    this.address = address;
  }

  /** `isKnown`: the row names somebody of the course. */
  has({ row, cells }: Pick<TableRow, 'row' | 'cells'>, isKnown: boolean): boolean {
    const isBehindGap = this.last !== null && row > this.last + 1;
    this.last = row;
    const filled = cells.filter((c) => c !== '');
    const hasAddress = this.address >= 0 && cells[this.address]!.includes('@');
    const asksAddress = this.address >= 0 && this.addresses * 2 > this.rows;
    const belongs = isKnown || (asksAddress ? hasAddress : filled.length > 1);
    if (belongs) this.isBelow = false;
    else if (isBehindGap) this.isBelow = true;
    if (this.isBelow || (!isKnown && !hasAddress && isNote(filled))) return true;
    this.rows++;
    if (hasAddress) this.addresses++;
    return false;
  }
}

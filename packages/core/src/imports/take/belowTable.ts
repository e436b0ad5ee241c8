/** Recognizes notes and other tables below the table of a people sheet. Common practice, no source. */
import type { TableRow } from '../read/table.ts';

/** A longer text is not a name. */
const MOST_WORDS_OF_NAME = 6;

/** A row with a sentence as its only filled cell. */
const isNote = (filled: readonly string[]): boolean =>
  filled.length === 1 && filled[0]!.trim().split(' ').length > MOST_WORDS_OF_NAME;

/**
 * Called with each row in order. In a table in which most rows have an address, a row without one after an empty row ends the table, which
 * continues at the next row with an address. In other tables, only sentences are recognized: any other text could be a student's name.
 */
export class BelowTable {
  /** The index of the address column, or −1. */
  private readonly address: number;
  private last: number | null = null;
  private rows = 0;
  private addresses = 0;
  private isBelow = false;

  constructor(address: number) {
    this.address = address;
  }

  /** Whether the row is below the table. `isKnown`: tells whether it names a person of the course, who is always part of the table. */
  has({ row, cells }: Pick<TableRow, 'row' | 'cells'>, isKnown: () => boolean): boolean {
    const isAfterGap = this.last !== null && row > this.last + 1;
    this.last = row;
    const hasAddress = this.address >= 0 && cells[this.address]!.includes('@');
    if (hasAddress || isKnown()) this.isBelow = false;
    else if (isAfterGap && this.addresses * 2 > this.rows) this.isBelow = true;
    else if (isNote(cells.filter((c) => c !== ''))) return true;
    if (this.isBelow) return true;
    this.rows++;
    if (hasAddress) this.addresses++;
    return false;
  }
}

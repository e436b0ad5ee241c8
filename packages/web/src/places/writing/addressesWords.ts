/** What one press of Send hands over, where that is more than a message for each student. */
import { listWords, plural } from '@zest-bell/core/time';

/** "9 emails: to 5 students and 4 parents"; null where each message is one email to a student. `columns`: of a sheet, with addresses. */
export function addressesWords(
  addresses: Readonly<Record<string, number>>,
  columns: readonly string[] = [],
): string | null {
  const readers = Object.entries(addresses).filter(([, n]) => n > 0);
  if (readers.every(([reader]) => reader === 'student')) return null;
  const all = readers.reduce((sum, [, n]) => sum + n, 0);
  return `${plural(all, 'email')}: to ${listWords(readers.map(([reader, n]) => readerWords(reader, n, columns)))}`;
}

function readerWords(reader: string, n: number, columns: readonly string[]): string {
  if (reader === 'student' || reader === 'instructor') return plural(n, reader);
  if (reader.startsWith('contact:')) {
    const kind = reader.slice('contact:'.length);
    return columns.includes(kind) ? `${plural(n, 'address', 'addresses')} in “${kind}”` : plural(n, kind);
  }
  return plural(n, 'other address', 'other addresses');
}

/** What one press of Send hands over, where that is more than a message for each student. */
import { listWords, plural } from '@zest-bell/core/time';

/** "9 emails: to 5 students and 4 parents"; null where each message is one email to a student. */
export function addressesWords(addresses: Readonly<Record<string, number>>): string | null {
  const readers = Object.entries(addresses).filter(([, n]) => n > 0);
  if (readers.every(([reader]) => reader === 'student')) return null;
  const all = readers.reduce((sum, [, n]) => sum + n, 0);
  return `${plural(all, 'email')}: to ${listWords(readers.map(([reader, n]) => readerWords(reader, n)))}`;
}

function readerWords(reader: string, n: number): string {
  if (reader === 'student' || reader === 'instructor') return plural(n, reader);
  if (reader.startsWith('contact:')) return plural(n, reader.slice('contact:'.length));
  return plural(n, 'other address', 'other addresses');
}

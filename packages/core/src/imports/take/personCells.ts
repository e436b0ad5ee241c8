/** The cells of a person: role, yes or no, address, day of enrollment; each as it is taken, or refused with its column. */
import { isAddress } from '../../course/address.ts';
import { ROLES } from '../../course/person.ts';
import { readDate, type DateReading } from '../read/dates.ts';
import { RefusedRow } from '../read/refused.ts';
import { DATE_SENTENCES } from './row.ts';

const ROLE_WORDS: Readonly<Record<string, string>> = {
  learner: 'student',
  teacher: 'instructor',
  faculty: 'instructor',
  ta: 'assistant',
  'teaching assistant': 'assistant',
  auditor: 'observer',
};

export function roleOf(cell: string, column: string | null): string {
  const text = cell.toLowerCase();
  const role = ROLES.find((r) => r === text) ?? (Object.hasOwn(ROLE_WORDS, text) ? ROLE_WORDS[text] : undefined);
  if (role !== undefined) return role;
  throw new RefusedRow(column, 'role', `“${cell}” is no role. Use ${ROLES.join(', ')}`);
}

const YES = new Set(['true', 'yes', 'y', '1', 'active', 'enrolled']);
const NO = new Set(['false', 'no', 'n', '0', 'inactive', 'dropped', 'withdrawn']);

export function activeOf(cell: string, column: string | null): boolean {
  const text = cell.toLowerCase();
  if (YES.has(text)) return true;
  if (NO.has(text)) return false;
  throw new RefusedRow(column, 'yesNo', `“${cell}” is neither yes nor no`);
}

export function addressOf(cell: string, column: string | null): string {
  if (isAddress(cell)) return cell;
  throw new RefusedRow(column, 'address', `“${cell}” is not an email address. Type one such as ada@college.example`);
}

export function enrolledOf(cell: string, column: string, reading: DateReading): number {
  const read = readDate(cell, reading);
  if (read.ok) return read.at;
  const question = read.code === 'ambiguousDate' ? ({ about: 'dayOrder', column, example: cell } as const) : null;
  throw new RefusedRow(column, read.code, DATE_SENTENCES[read.code](cell), question);
}

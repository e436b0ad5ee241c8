/** Ids in the path of a request. */
import { AppError } from '../platform/errors/errors.ts';

/** An id of a path, as it is written: digits and nothing else. Throws `notFound`. */
export function idOf(text: string): number {
  if (!/^[1-9]\d{0,14}$/.test(text)) throw new AppError('notFound');
  return Number(text);
}

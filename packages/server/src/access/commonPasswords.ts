import isCommon from 'common-password-checker';
import { AppError } from '../platform/http/errors.ts';

/**
 * Refuses a password that stands in the list of common ones, or is the address it belongs to (NIST SP 800-63B, 5.1.1.2, from memory).
 * Throws `invalidInput` for the field at `path`.
 */
export function mustNotBeCommon(password: string, email: string, path = 'password'): void {
  const plain = password.trim().toLowerCase();
  const isOwn = plain.includes(email.toLowerCase());
  // A common word does not get better by being repeated, or by digits after it.
  const word = plain.replace(/[\d\W_]+$/, '');
  const once = /^(.+?)\1+$/.exec(plain)?.[1] ?? plain;
  if (isOwn || once.length < 4 || [plain, word, once].some(isCommon))
    throw new AppError('invalidInput', [
      { path, code: 'common', message: 'This password is one that many people use. Choose another' },
    ]);
}

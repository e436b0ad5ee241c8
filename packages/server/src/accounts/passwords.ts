/** Passwords are kept as Argon2id hashes (memory-hard); the parameters are the library's, after RFC 9106. */
import { hash, verify } from '@node-rs/argon2';

export const hashPassword = (password: string): Promise<string> => hash(password);

let decoy: Promise<string> | undefined;

/** Whether the password fits. Without a hash it takes as long, so that nobody can tell which addresses exist. */
export async function passwordFits(stored: string | null, password: string): Promise<boolean> {
  decoy ??= hash('no account has this password');
  const fits = await verify(stored ?? (await decoy), password);
  return stored !== null && fits;
}

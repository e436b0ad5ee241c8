/** What nobody can guess, and what is kept of it. */
import { createHash, randomBytes } from 'node:crypto';

/** 192 bits, for an address or a header. */
export const newSecret = (): string => randomBytes(24).toString('base64url');

/** SHA-256: such a secret is too long to be found from it. */
export const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');

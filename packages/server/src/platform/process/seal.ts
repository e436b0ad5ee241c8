/** Keeps secrets so that nobody reads them where they lie: AES-256 in GCM (NIST SP 800-38D), with a key of the server's own secret. */
import { createCipheriv, createDecipheriv, createHmac, hkdfSync, randomBytes } from 'node:crypto';

export interface Seal {
  readonly close: (text: string) => string;
  /** Throws for what was not closed with this secret, or was changed since. */
  readonly open: (sealed: string) => string;
  /** The same for the same text, and nothing of it for anyone who has not the secret (HMAC, RFC 2104). */
  readonly mark: (text: string) => string;
}

const NONCE = 12;
const TAG = 16;

/** `purpose` keeps the keys of different uses apart. */
export function sealOf(secret: string, purpose: string): Seal {
  const key = Buffer.from(hkdfSync('sha256', secret, '', `zest-bell ${purpose}`, 32));
  return {
    mark: (text) => createHmac('sha256', key).update(text).digest('base64url'),
    close(text) {
      const nonce = randomBytes(NONCE);
      const cipher = createCipheriv('aes-256-gcm', key, nonce);
      const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
      return Buffer.concat([nonce, cipher.getAuthTag(), body]).toString('base64url');
    },
    open(sealed) {
      const bytes = Buffer.from(sealed, 'base64url');
      const decipher = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, NONCE));
      decipher.setAuthTag(bytes.subarray(NONCE, NONCE + TAG));
      return Buffer.concat([decipher.update(bytes.subarray(NONCE + TAG)), decipher.final()]).toString('utf8');
    },
  };
}

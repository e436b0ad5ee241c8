/**
 * Which secret signs and seals, and whether it is the one that the database was used with: a process with another one would refuse the
 * cookies of the others, and could open nothing that they have sealed.
 */
import { keepFingerprint, keptFingerprint } from '../access/installation.ts';
import type { Orm } from '../platform/database/orm.ts';
import { StartProblem, type Config } from '../platform/process/config.ts';
import { sessionSecret } from '../platform/process/dataFolder.ts';
import { sealOf } from '../platform/process/seal.ts';
import { inInstallation } from '../access/holding.ts';

/** The secret that is set, or the one that the data folder keeps. */
export const secretOf = ({ secret, data }: Pick<Config, 'secret' | 'data'>): string => secret ?? sessionSecret(data);

/** Tells one secret from another, and nothing of either. */
export const fingerprintOf = (secret: string): string => sealOf(secret, 'fingerprint').mark('zest-bell').slice(0, 12);

/** Keeps the fingerprint at the first start. Throws a StartProblem where the database was used with another secret. */
export async function mustFitDatabase(orm: Orm, secret: string): Promise<void> {
  const own = fingerprintOf(secret);
  const kept = await inInstallation(orm, async (tx) => {
    const known = await keptFingerprint(tx);
    if (known === null) await keepFingerprint(tx, own);
    return known;
  });
  if (kept === null || kept === own) return;
  throw new StartProblem(
    `Zest Bell cannot start: its secret is another one than the database was used with (fingerprint ${own}, expected ${kept}).\n` +
      'Set ZEST_SECRET, or put the session-secret of the old data folder in place. To go on with the new secret on purpose,\n' +
      'run “npm run zest -- secret replace”: it says first what will no longer open.',
  );
}

/** From now on the database is used with this secret. Returns the fingerprints before and now. */
export const replaceSecret = (orm: Orm, secret: string): Promise<{ before: string | null; now: string }> =>
  inInstallation(orm, async (tx) => {
    const before = await keptFingerprint(tx);
    const now = fingerprintOf(secret);
    await keepFingerprint(tx, now);
    return { before, now };
  });

/** What holds for the whole installation. */
import type { InstallationSettings } from '@zest-bell/core/exchange';
import type { Em, Tx } from '../platform/database/orm.ts';
import { InstallationRow } from './entity.ts';

const ID = 1;
/** Two years after a course’s end. */
const USUAL: InstallationSettings = { factorRequired: false, keepMonths: 24 };

export async function installationOf(em: Em): Promise<InstallationSettings> {
  const row = await em.findOne(InstallationRow, { id: ID }, { disableIdentityMap: true });
  return row ? { factorRequired: row.factorRequired, keepMonths: row.keepMonths } : USUAL;
}

export async function setInstallation(tx: Tx, settings: InstallationSettings): Promise<void> {
  await tx.upsert(InstallationRow, { id: ID, ...settings });
}

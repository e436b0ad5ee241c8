/** What holds for the whole installation. */
import type { InstallationSettings } from '@zest-bell/core/exchange';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import type { FixedSettings } from '../platform/services.ts';
import { Account, InstallationRow, installationHolds } from './entity.ts';
import { upsertRow } from '../platform/database/writing.ts';

const ID = 1;
/** Two years after a course’s end. */
const USUAL: InstallationSettings = {
  factorRequired: false,
  keepMonths: 24,
  name: '',
  shelfKeepers: [],
  sender: null,
  senderDomains: [],
  coursesBy: 'proven',
  courseMakers: [],
};

/** Nobody has an account yet, and nothing is sent before somebody has. */
const NOBODY = { name: 'Zest Bell', address: 'nobody@localhost.invalid' };

/**
 * Who the installation's own mail comes from, kept in memory so that a message being made need not ask the database. Where nobody has
 * said, the first administrator's address serves.
 */
export class InstallationSenderNow {
  private readonly orm: Orm;
  private readonly fixed: FixedSettings;
  private now = NOBODY;

  constructor(orm: Orm, fixed: FixedSettings) {
    this.orm = orm;
    this.fixed = fixed;
  }

  readonly get = () => this.now;

  /** Reads it anew: at the start, when it may have changed here, and each minute, as another process may have changed it. */
  async refresh(): Promise<void> {
    const em = this.orm.em.fork();
    const said = this.fixed.sender ?? (await installationOf(em)).sender;
    if (said) this.now = { ...said, name: said.name || NOBODY.name };
    else {
      const keeper = await em.findOne(Account, { isAdministrator: true }, { orderBy: { id: 'asc' } });
      this.now = keeper ? { ...NOBODY, address: keeper.email } : NOBODY;
    }
  }
}

/** The addresses that mail may come from, by the operator's settings or by the page. */
export const senderListOf = async (em: Em, { senderDomains }: FixedSettings): Promise<readonly string[]> =>
  senderDomains ?? (await installationOf(em)).senderDomains;

export async function installationOf(em: Em): Promise<InstallationSettings> {
  const row = await em.findOne(InstallationRow, { id: ID }, { disableIdentityMap: true });
  if (!row) return USUAL;
  const { factorRequired, keepMonths, name, shelfKeepers } = row;
  const { senderName, senderAddress, senderDomains, coursesBy, courseMakers } = row;
  const sender = senderAddress == null ? null : { name: senderName ?? '', address: senderAddress };
  return { factorRequired, keepMonths, name, shelfKeepers, sender, senderDomains, coursesBy, courseMakers };
}

/** What is not named stays as it is. */
export async function setInstallation(tx: Tx<'installation'>, settings: Partial<InstallationSettings>): Promise<void> {
  const { sender, ...others } = settings;
  const named =
    sender === undefined ? {} : { senderName: sender?.name ?? null, senderAddress: sender?.address ?? null };
  await upsertRow(tx, installationHolds, { id: ID, ...others, ...named });
}

/** The fingerprint that is kept of the server's secret; null where none is yet. */
export async function keptFingerprint(em: Em): Promise<string | null> {
  return (await em.findOne(InstallationRow, { id: ID }, { disableIdentityMap: true }))?.fingerprint ?? null;
}

export async function keepFingerprint(tx: Tx<'installation'>, fingerprint: string): Promise<void> {
  await upsertRow(tx, installationHolds, { id: ID, fingerprint });
}

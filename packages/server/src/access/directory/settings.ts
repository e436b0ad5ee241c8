/** What an administrator, or the server's own settings, say about the institution's sign-in. */
import type { DirectoryTerms } from '@zest-bell/core/exchange';
import { insertRow, updateRows } from '../../platform/database/writing.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import type { Seal } from '../../platform/process/seal.ts';
import type { FixedSettings } from '../../platform/services.ts';
import { DirectoryRow, directoryHolds } from './entity.ts';

const ID = 1;
const USUAL: DirectoryTerms = {
  name: 'your institution',
  trustsAddresses: false,
  admits: null,
  acr: [],
  amr: [],
  passwordsOff: false,
};

/** A connected provider with what holds for it. */
export interface DirectorySettings extends DirectoryTerms {
  readonly issuer: string;
  readonly clientId: string;
  /** Null for a provider that asks for none. */
  readonly secret: string | null;
}

export interface KeepsDirectory {
  readonly fixed: FixedSettings;
  /** Seals secrets that another server gave us. */
  readonly sealOutside: Seal;
}

const rowOf = (em: Em) => em.findOne(DirectoryRow, { id: ID }, { disableIdentityMap: true });

/** The administrator's part alone, also where no provider is connected. */
export async function directoryTerms(em: Em): Promise<DirectoryTerms> {
  const row = await rowOf(em);
  if (!row) return USUAL;
  const { name, trustsAddresses, admits, acr, amr, passwordsOff } = row;
  return { name, trustsAddresses, admits: admits ?? null, acr, amr, passwordsOff };
}

/** Null where no provider is connected. */
export async function directorySettings(
  em: Em,
  { fixed, sealOutside }: KeepsDirectory,
): Promise<DirectorySettings | null> {
  const terms = await directoryTerms(em);
  if (fixed.directory) return { ...terms, ...fixed.directory };
  const row = await rowOf(em);
  if (row?.issuer == null || row.clientId == null) return null;
  const secret = row.secret == null ? null : sealOutside.open(row.secret);
  return { ...terms, issuer: row.issuer, clientId: row.clientId, secret };
}

/** Whether only administrators may use passwords: never without a provider. */
export async function passwordsAreOff(em: Em, fixed: FixedSettings): Promise<boolean> {
  const row = await rowOf(em);
  return row !== null && row.passwordsOff && (fixed.directory !== null || row.issuer != null);
}

type KeptPart = Partial<DirectoryTerms> & Partial<Pick<DirectoryRow, 'issuer' | 'clientId' | 'secret'>>;

/** What is not named stays as it is. `secret` is sealed. */
export async function keepDirectory(tx: Tx<'installation'>, part: KeptPart): Promise<void> {
  if (await rowOf(tx)) await updateRows(tx, directoryHolds, { id: ID }, part);
  else await insertRow(tx, directoryHolds, { id: ID, ...USUAL, ...part });
}

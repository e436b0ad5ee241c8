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

const termsIn = (row: DirectoryRow | null): DirectoryTerms => {
  if (!row) return USUAL;
  const { name, trustsAddresses, admits, acr, amr, passwordsOff } = row;
  return { name, trustsAddresses, admits: admits ?? null, acr, amr, passwordsOff };
};

/** What an administrator decides, also where no provider is connected. */
export const directoryTerms = async (em: Em): Promise<DirectoryTerms> => termsIn(await rowOf(em));

/** The same where a provider is connected, else null. It needs no secret: everybody who signs in asks for it. */
export async function connectedTerms(em: Em, fixed: FixedSettings): Promise<DirectoryTerms | null> {
  const row = await rowOf(em);
  return fixed.directory !== null || row?.issuer != null ? termsIn(row) : null;
}

/** Null where no provider is connected. A secret that was sealed with another secret of the server counts as none: it is typed again. */
export async function directorySettings(
  em: Em,
  { fixed, sealOutside }: KeepsDirectory,
): Promise<DirectorySettings | null> {
  const row = await rowOf(em);
  const terms = termsIn(row);
  if (fixed.directory) return { ...terms, ...fixed.directory };
  if (row?.issuer == null || row.clientId == null) return null;
  return { ...terms, issuer: row.issuer, clientId: row.clientId, secret: openedOrNull(sealOutside, row.secret) };
}

function openedOrNull(seal: Seal, sealed: string | null | undefined): string | null {
  if (sealed == null) return null;
  try {
    return seal.open(sealed);
  } catch {
    return null;
  }
}

/** Whether only administrators may use passwords: never without a provider. */
export const passwordsAreOff = async (em: Em, fixed: FixedSettings): Promise<boolean> =>
  (await connectedTerms(em, fixed))?.passwordsOff ?? false;

type KeptPart = Partial<DirectoryTerms> & Partial<Pick<DirectoryRow, 'issuer' | 'clientId' | 'secret'>>;

/** What is not named stays as it is. `secret` is sealed. */
export async function keepDirectory(tx: Tx<'installation'>, part: KeptPart): Promise<void> {
  if (await rowOf(tx)) await updateRows(tx, directoryHolds, { id: ID }, part);
  else await insertRow(tx, directoryHolds, { id: ID, ...USUAL, ...part });
}

/** Learning platforms that may launch: registered by an administrator or on the command line. */
import { contract, type BodyRead } from '@zest-bell/core/contract';
import type { PlatformCard } from '@zest-bell/core/connections';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { ConnectionServices } from '../services.ts';
import { PlatformRow, platformHolds } from './entity.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { insertRow, removeRows } from '../../platform/database/writing.ts';
import { inInstallation } from '../../access/holding.ts';

export const platformSchema = contract.connections.addPlatform.body;
export type PlatformInput = BodyRead<typeof contract.connections.addPlatform>;
type Adding = Pick<ConnectionServices, 'orm' | 'outgoing'>;

/** Throws `invalidInput` for an address that is not called, and for a platform that is registered already. */
export async function addPlatform({ orm, outgoing }: Adding, input: PlatformInput): Promise<number> {
  const problems = (['tokenEndpoint', 'jwksUrl', 'authEndpoint'] as const).flatMap((path) => {
    const why = outgoing.whyNot(input[path]);
    return why === null ? [] : [{ path, code: 'address', message: why }];
  });
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  return inInstallation(orm, async (tx) => {
    const { issuer, clientId } = input;
    if ((await tx.count(PlatformRow, { issuer, clientId })) > 0)
      throw new AppError('invalidInput', [
        { path: 'clientId', code: 'taken', message: 'This platform is registered under this client id already' },
      ]);
    const row = await insertRow(tx, platformHolds, { ...input, addedAt: wallClock(), approvedAt: wallClock() });
    return row.id;
  });
}

export async function removePlatform({ orm }: Pick<ConnectionServices, 'orm'>, id: number): Promise<void> {
  const gone = await inInstallation(orm, (tx) => removeRows(tx, platformHolds, { id }));
  if (gone === 0) throw new AppError('notFound');
}

/** Those that registered themselves wait among them. */
export const platforms = (em: Em): Promise<PlatformRow[]> =>
  em.find(PlatformRow, {}, { orderBy: { id: 'asc' }, disableIdentityMap: true });

export const platformCard = (row: PlatformRow): PlatformCard => ({
  id: row.id,
  issuer: row.issuer,
  clientId: row.clientId,
  deployments: row.deployments,
  authEndpoint: row.authEndpoint,
  tokenEndpoint: row.tokenEndpoint,
  jwksUrl: row.jwksUrl,
  addedAt: row.addedAt,
  approvedAt: row.approvedAt ?? null,
  trustsAddresses: row.trustsAddresses,
});

/** Where its services may be: what was typed of it, and nothing that a launch names. */
export const originsOf = (row: PlatformRow): string[] => [
  ...new Set([row.authEndpoint, row.tokenEndpoint, row.jwksUrl].map((url) => new URL(url).origin)),
  ...row.serviceOrigins,
];

/** Who may show the tool in a frame. */
export const framedBy = (row: Pick<PlatformRow, 'authEndpoint' | 'frameOrigins'>): string[] => [
  ...new Set([new URL(row.authEndpoint).origin, ...row.frameOrigins]),
];

/** The tool's own keys: the one that signs and the next are published; each signs for ninety days. */
import { calculateJwkThumbprint, exportJWK, exportPKCS8, generateKeyPair, importPKCS8, SignJWT } from 'jose';
import { DAY } from '@zest-bell/core/time';
import type { Em } from '../../platform/database/orm.ts';
import type { ConnectionServices } from '../services.ts';
import { ToolKeyRow, toolKeyHolds } from './entity.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { insertRow } from '../../platform/database/writing.ts';
import { inInstallation } from '../../access/holding.ts';

const SIGNS_FOR = 90 * DAY;
const ALG = 'RS256';

type KeyServices = Pick<ConnectionServices, 'orm' | 'sealOutside'>;

/** The key that signs now, and those that are published: it and the next. */
export async function toolKeys({ orm, sealOutside }: KeyServices, now = wallClock()) {
  const read = (em: Em) => em.find(ToolKeyRow, {}, { orderBy: { signsFrom: 'asc' }, disableIdentityMap: true });
  let rows = await read(orm.em.fork());
  const isDone = () => rows.some((r) => r.signsFrom <= now) && rows.some((r) => r.signsFrom > now);
  if (!isDone()) {
    // Made before anything is locked, and thrown away where somebody else was faster.
    const made = await Promise.all([newKey(), newKey()]);
    rows = await inInstallation(orm, async (tx) => {
      const there = await read(tx);
      const current = there.findLast((r) => r.signsFrom <= now);
      const from = current ? Math.max(current.signsFrom + SIGNS_FOR, now + DAY) : now + SIGNS_FOR;
      const [first, next] = made;
      const closed = (key: NewKey, signsFrom: number) =>
        insertRow(tx, toolKeyHolds, { ...key, privateKey: sealOutside.close(key.privateKey), signsFrom });
      if (!current) await closed(first, now);
      if (!there.some((r) => r.signsFrom > now)) await closed(next, from);
      return read(tx);
    });
  }
  const current = rows.findLast((r) => r.signsFrom <= now)!;
  return { current, published: rows.filter((r) => r.signsFrom >= current.signsFrom).map((r) => r.publicKey) };
}

type NewKey = Pick<ToolKeyRow, 'kid' | 'publicKey' | 'privateKey'>;

async function newKey(): Promise<NewKey> {
  const pair = await generateKeyPair(ALG, { extractable: true });
  const jwk = await exportJWK(pair.publicKey);
  const kid = await calculateJwkThumbprint(jwk);
  return { kid, publicKey: { ...jwk, kid, alg: ALG, use: 'sig' }, privateKey: await exportPKCS8(pair.privateKey) };
}

/** Says who the tool is, to the token endpoint of a platform (RFC 7523). */
export async function assertion(keeping: KeyServices, clientId: string, audience: string): Promise<string> {
  const { current } = await toolKeys(keeping);
  const key = await importPKCS8(keeping.sealOutside.open(current.privateKey), ALG);
  return new SignJWT({ jti: crypto.randomUUID() })
    .setProtectedHeader({ alg: ALG, kid: current.kid, typ: 'JWT' })
    .setIssuer(clientId)
    .setSubject(clientId)
    .setAudience(audience)
    .setIssuedAt()
    .setExpirationTime('5m')
    .sign(key);
}

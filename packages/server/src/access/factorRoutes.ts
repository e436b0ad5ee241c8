/** Setting up a second factor, and showing it. */
import { contract } from '@zest-bell/core/contract';
import type { Request } from 'express';
import { AppError } from '../platform/errors/errors.ts';
import { sendChangeNotice } from './accountMail.ts';
import type { Door } from './door.ts';
import { Account, PasskeyRow, RecoveryRow, accountHolds, recoveryHolds, passkeyHolds } from './entity.ts';
import {
  addPasskey,
  challengeOf,
  newRecoveryCodes,
  newTotpSecret,
  partyOf,
  periodOf,
  registrationOf,
  redeemCode,
  verifyPasskey,
  redeemRecoveryCode,
  totpUri,
} from './factors.ts';
import { linkIdentity } from './directory/who.ts';
import { idOf } from './pathIds.ts';
import { installationOf } from './installation.ts';
import { type AccountServices, type SessionReader, begin, countWrong, halfOf, mustBeFresh } from './signIn.ts';
import { knowBrowser, type TryCounter } from './tries.ts';
import type { SignInLog } from './signInLog.ts';
import { removeRows, updateRows } from '../platform/database/writing.ts';
import { inAccount } from './holding.ts';

const isLoopback = (url: string): boolean =>
  URL.canParse(url) && ['localhost', '127.0.0.1', '[::1]'].includes(new URL(url).hostname);

interface SignInServices {
  readonly answer: SessionReader;
  readonly tries: TryCounter;
  readonly signIns: SignInLog;
}

export function factorRoutes(door: Door, services: AccountServices, { answer, tries, signIns }: SignInServices): void {
  const { orm, reading, seal, linkBase } = services;
  /** On a machine of one's own the address that the browser says: a passkey is of a name, and `localhost` is one. */
  const party = (req: Request) => {
    const base = linkBase();
    const here = req.get('origin');
    if (base !== null && isLoopback(base) && here !== undefined && isLoopback(here)) return partyOf(here);
    if (base === null) throw new AppError('noPublicAddress');
    return partyOf(base);
  };
  /** Anyone who has one now need not set one up any more. */
  const isSet = (req: Request) => {
    if (req.session.mustSetFactor) req.session.mustSetFactor = false;
  };

  door.on(contract.access.factorChallenge, async ({ req }) => {
    const half = halfOf(req);
    const options = await challengeOf(reading.em.fork(), party(req), half.account);
    half.challenge = options.challenge;
    return { ...options };
  });

  /** Counted before the code is looked at; passkeys cannot be guessed and are not counted. */
  const countCode = async (account: number, address: string) => {
    try {
      return await tries.beginFactor(account);
    } catch (error) {
      if (error instanceof AppError && error.code === 'tooManyAttempts') {
        await signIns.refused(account, address, 'tooManyAttempts');
        signIns.tellOwner(account, 'factor');
      }
      throw error;
    }
  };

  door.on(contract.access.factor, async ({ body, req, res }) => {
    const { account, challenge, cameBy, links } = halfOf(req);
    const address = req.ip ?? '';
    const counted = 'passkey' in body ? null : await countCode(account, address);
    try {
      await inAccount(orm, account, async (tx, row) => {
        if ('recoveryCode' in body) await redeemRecoveryCode(tx, account, body.recoveryCode);
        else if ('code' in body) await redeemCode(tx, seal, row, body.code);
        else if (challenge === null) throw new AppError('wrongCode');
        else await verifyPasskey(tx, party(req), account, challenge, body.passkey);
        if (links) await linkIdentity(tx, account, links);
      });
    } catch (error) {
      if (error instanceof AppError && error.code === 'wrongCode') {
        await countWrong(req);
        await signIns.refused(account, address, 'wrongCode');
      }
      throw error;
    }
    await counted?.right();
    await begin(req, account, { cameBy });
    const { email } = await orm.em.fork().findOneOrFail(Account, { id: account });
    await tries.know({ email, address });
    knowBrowser(req, res, seal, account);
    await signIns.signedIn(account, address);
    return answer(req);
  });

  door.on(contract.access.factors, async ({ account }) => {
    const em = reading.em.fork();
    const { totp } = await em.findOneOrFail(Account, { id: account });
    const passkeys = await em.find(PasskeyRow, { account }, { orderBy: { id: 'asc' } });
    return {
      totp: totp != null,
      recoveryCodes: await em.count(RecoveryRow, { account }),
      passkeys: passkeys.map(({ id, name, at, usedAt }) => ({ id, name, at, usedAt: usedAt ?? null })),
      isRequired: (await installationOf(em)).factorRequired,
    };
  });

  door.on(contract.access.beginTotp, async ({ account, req }) => {
    mustBeFresh(req);
    const { email } = await reading.em.fork().findOneOrFail(Account, { id: account });
    const secret = newTotpSecret();
    req.session.totp = seal.close(secret);
    return { secret, uri: totpUri(secret, email) };
  });

  door.on(contract.access.confirmTotp, async ({ account, body: { code }, req }) => {
    const { totp } = req.session;
    const period = totp === undefined ? null : periodOf(seal.open(totp), code);
    if (totp === undefined || period === null) throw new AppError('wrongCode');
    const recoveryCodes = await inAccount(orm, account, async (tx) => {
      await updateRows(tx, accountHolds, { id: account }, { totp, totpUsed: period });
      return newRecoveryCodes(tx, account);
    });
    delete req.session.totp;
    isSet(req);
    sendChangeNotice(services, account, 'factorAdded');
    return { recoveryCodes };
  });

  door.on(contract.access.endTotp, async ({ account, req }) => {
    mustBeFresh(req);
    await inAccount(orm, account, async (tx) => {
      await updateRows(tx, accountHolds, { id: account }, { totp: null, totpUsed: null });
      if ((await tx.count(PasskeyRow, { account })) === 0) await removeRows(tx, recoveryHolds, { account });
    });
    sendChangeNotice(services, account, 'factorRemoved');
  });

  door.on(contract.access.newRecoveryCodes, async ({ account, req }) => {
    mustBeFresh(req);
    const recoveryCodes = await inAccount(orm, account, (tx) => newRecoveryCodes(tx, account));
    sendChangeNotice(services, account, 'recovery');
    return { recoveryCodes };
  });

  door.on(contract.access.beginPasskey, async ({ account, req }) => {
    mustBeFresh(req);
    const em = reading.em.fork();
    const options = await registrationOf(em, party(req), await em.findOneOrFail(Account, { id: account }));
    req.session.challenge = options.challenge;
    return { ...options };
  });

  door.on(contract.access.addPasskey, async ({ account, body: { name, passkey }, req }) => {
    const { challenge } = req.session;
    if (challenge === undefined) throw new AppError('wrongCode');
    delete req.session.challenge;
    await inAccount(orm, account, (tx) => addPasskey(tx, party(req), { account, name, challenge, said: passkey }));
    isSet(req);
    sendChangeNotice(services, account, 'factorAdded');
  });

  door.on(contract.access.removePasskey, async ({ account, path, req }) => {
    mustBeFresh(req);
    const gone = await inAccount(orm, account, (tx) =>
      removeRows(tx, passkeyHolds, { account, id: idOf(path.passkey) }),
    );
    if (gone === 0) throw new AppError('notFound');
    sendChangeNotice(services, account, 'factorRemoved');
  });
}

/** Proving that an address is one's own, by a code that is mailed to it. */
import { randomInt } from 'node:crypto';
import { contract } from '@zest-bell/core/contract';
import { DAY, HOUR, MINUTE } from '@zest-bell/core/time';
import { wallClock } from '../platform/process/clock.ts';
import { AppError } from '../platform/errors/errors.ts';
import type { Orm, Tx } from '../platform/database/orm.ts';
import { inPlainTransaction, execute } from '../platform/database/statements.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { sendAccountMail } from './accountMail.ts';
import type { Door } from './door.ts';
import { AddressCodeRow, ProvenAddressRow, addressCodeHolds } from './entity.ts';
import { prove, proveByLink } from './links.ts';
import type { AccountServices } from './signIn.ts';
import { insertRow, removeRows, updateRows } from '../platform/database/writing.ts';
import { inAccount } from './holding.ts';

const GOOD_FOR = 30 * MINUTE;
const MOST_TRIES = 5;
/** Codes that one account may ask for, and that one address may be sent. */
const MOST_OF_ACCOUNT = { most: 5, within: HOUR };
const MOST_OF_ADDRESS = { most: 5, within: DAY };

export function addressRoutes(door: Door, services: AccountServices): void {
  const { orm, reading, seal } = services;
  const markOf = (account: number, address: string, code: string) =>
    seal.mark(['address code', account, address, code].join('\n'));

  door.on(contract.access.addresses, async ({ account }) => {
    const rows = await reading.em.fork().find(ProvenAddressRow, { account }, { orderBy: { id: 'asc' } });
    return rows.map(({ address, at }) => ({ address, at }));
  });

  door.on(contract.access.mailCode, async ({ account, body }) => {
    const address = body.address.toLowerCase();
    const code = String(randomInt(10 ** 8)).padStart(8, '0');
    const now = wallClock();
    const { name } = await inAccount(orm, account, async (tx, row) => {
      await mustNotAskTooOften(tx, { account }, MOST_OF_ACCOUNT, now);
      await mustNotAskTooOften(tx, { address }, MOST_OF_ADDRESS, now);
      // The code before works no more.
      await updateRows(tx, addressCodeHolds, { account, address, endsAt: { $gt: now } }, { endsAt: now });
      const mark = markOf(account, address, code);
      await insertRow(tx, addressCodeHolds, { account, address, mark, at: now, endsAt: now + GOOD_FOR });
      return row;
    });
    const isSent = await sendAccountMail(services, {
      to: { name, address },
      subject: `Your code for Zest Bell: ${code}`,
      text: `Type this code in Zest Bell to prove that this address is yours:\n\n${code}\n\nIt works for 30 minutes. If you did not ask for it, do nothing.`,
    });
    if (!isSent) throw new AppError('codeNotMailed');
  });

  door.on(contract.access.proveAddress, async ({ account, body }) => {
    const address = body.address.toLowerCase();
    const mark = markOf(account, address, body.code);
    // A try counts before the code is looked at, also where another transaction would be rolled back.
    if (!(await isRight(orm, { account, address, mark }))) throw new AppError('wrongAddressCode', [WRONG]);
    await inAccount(orm, account, async (tx, row) => {
      if (row.email === address && row.isUnproven) await proveByLink(tx, row);
      else await prove(tx, account, address, 'code');
    });
  });
}

const WRONG = { path: 'code', code: 'wrong', message: 'This code does not fit, or it is over' };

/** Whether the code fits the last one that was mailed; each try counts, and a right one works once. */
function isRight(orm: Orm, guess: { account: number; address: string; mark: string }, now = wallClock()) {
  const { account, address, mark } = guess;
  return inPlainTransaction(orm, async (statements) => {
    const [found] = (await execute(
      statements,
      addressCodeHolds,
      `update address_code set tries = tries + 1
       where account = ? and address = ? and ends_at > ? and tries < ? returning id, mark`,
      [account, address, now, MOST_TRIES],
    )) as { id: number; mark: string }[];
    if (found?.mark !== mark) return false;
    await execute(statements, addressCodeHolds, 'update address_code set ends_at = ? where id = ? returning id', [
      now,
      found.id,
    ]);
    return true;
  });
}

/** Throws `tooManyCodes`, with when the next may be asked for. */
async function mustNotAskTooOften(
  tx: Tx,
  whose: { account: number } | { address: string },
  { most, within }: { readonly most: number; readonly within: number },
  now: number,
): Promise<void> {
  const order = { orderBy: { at: 'desc' }, limit: most, fields: ['at'], disableIdentityMap: true } as const;
  const last = await tx.find(AddressCodeRow, { ...whose, at: { $gt: now - within } }, order);
  if (last.length < most) return;
  throw new AppError('tooManyCodes', [], { retryAfter: Math.ceil((last.at(-1)!.at + within - now) / 1000) });
}

/** Codes that count in no bound any more. */
export const forgetAddressCodes = (orm: Orm, now = wallClock()): Promise<number> =>
  inTransaction(orm, (tx) => removeRows(tx, addressCodeHolds, { at: { $lte: now - DAY } }));

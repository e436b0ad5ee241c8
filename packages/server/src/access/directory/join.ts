/** Joining the account of a launch to the one that its owner signs in to, and separating them again. */
import { ACCESS_ROLES, type AccessRole } from '@zest-bell/core/access';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { insertRow, removeRows, updateRow, updateRows } from '../../platform/database/writing.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { Access, Account, accessHolds, isOfLaunch, sessionHolds, tokenHolds } from '../entity.ts';
import { alsoAccount, alsoHoldingCourse } from '../holding.ts';
import { endTokensOf } from '../tokens.ts';
import type { AccountOptions } from '../signIn.ts';
import { JoinedAccountRow, joinedAccountHolds, type JoinedPart } from './entity.ts';

type JoinOptions = Pick<AccountOptions, 'onPart' | 'onJoined'>;

/** The account that somebody is signed in to who launches as this one. */
export async function joinedTo(em: Em, account: number): Promise<number> {
  return (await em.findOne(JoinedAccountRow, { account }, { disableIdentityMap: true }))?.to ?? account;
}

const higher = (a: AccessRole, b: AccessRole | null): AccessRole =>
  b !== null && ACCESS_ROLES.indexOf(b) < ACCESS_ROLES.indexOf(a) ? b : a;

/**
 * The parts of the account of a launch become parts of the other, in each course the higher role of the two; rules and senders follow.
 * What was done before stays in the name it was done in. Throws `notAllowed` for accounts that cannot be joined so.
 */
export async function joinAccounts(tx: Tx, from: number, to: number, options: JoinOptions): Promise<void> {
  if (from === to) throw new AppError('notAllowed');
  // Accounts in the order of their ids.
  await alsoAccount(tx, Math.min(from, to), (first) =>
    alsoAccount(first, Math.max(from, to), async (mine) => {
      const [launched, own] = [await mine.findOneOrFail(Account, from), await mine.findOneOrFail(Account, to)];
      if (!isOfLaunch(launched) || isOfLaunch(own) || (await joinedTo(mine, from)) !== from)
        throw new AppError('notAllowed');
      const parts: JoinedPart[] = [];
      for (const { course, role } of await mine.find(Access, { account: from }, { orderBy: { course: 'asc' } }))
        await alsoHoldingCourse(mine, course, async (held) => {
          const there = await held.findOne(Access, { account: to, course });
          parts.push({ course, role, was: there?.role ?? null });
          if (there) await updateRow(held, accessHolds, there, { role: higher(role, there.role) });
          else await insertRow(held, accessHolds, { account: to, course, role });
          await removeRows(held, accessHolds, { account: from, course });
          await options.onJoined(held, course, from, to);
          await updateRows(held, tokenHolds, { madeBy: from, course }, { madeBy: to });
        });
      await removeRows(mine, sessionHolds, { account: from });
      await insertRow(mine, joinedAccountHolds, { account: from, to, at: wallClock(), parts });
    }),
  );
}

/** Each account has its parts of before; what was done since stays in the name it was done in. Throws `notFound`. */
export async function separateAccounts(tx: Tx, from: number, options: JoinOptions): Promise<void> {
  const joined = await tx.findOne(JoinedAccountRow, { account: from });
  if (!joined) throw new AppError('notFound');
  const { to, parts } = joined;
  await alsoAccount(tx, Math.min(from, to), (first) =>
    alsoAccount(first, Math.max(from, to), async (mine) => {
      // Of two who do it at once the second finds nothing.
      if ((await removeRows(mine, joinedAccountHolds, { account: from })) === 0) throw new AppError('notFound');
      for (const { course, role, was } of parts)
        await alsoHoldingCourse(mine, course, async (held) => {
          const there = await held.findOne(Access, { account: to, course });
          if ((await held.count(Access, { account: from, course })) === 0)
            await insertRow(held, accessHolds, { account: from, course, role });
          // A role that an owner has changed since is left.
          if (there?.role !== higher(role, was)) return;
          if (was === null) await removeRows(held, accessHolds, { account: to, course });
          else await updateRow(held, accessHolds, there, { role: was });
          if (there.role === 'owner') await endTokensOf(held, course, to);
          await options.onPart(held, course, to, was);
        });
      await removeRows(mine, sessionHolds, { account: to });
    }),
  );
}

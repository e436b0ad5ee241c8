/** Who has access to a course: roles, invitations, and leaving. */
import { contract } from '@zest-bell/core/contract';
import { type Actor } from '@zest-bell/core/access';
import { DAY, HOUR } from '@zest-bell/core/time';
import { AppError } from '../platform/errors/errors.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { sendAccountMail } from './accountMail.ts';
import { actorNames } from './audit.ts';
import { idOf } from './pathIds.ts';
import { mustNotBeCommon, hashPassword } from './passwords.ts';
import type { Door } from './door.ts';
import { Access, Account, LinkRow, courseAccessHolds, linkHolds, accessHolds } from './entity.ts';
import { acceptFor } from './invitations.ts';
import { passwordsAreOff } from './directory/settings.ts';
import { linkOf, makeLink, openLink, useLink, WORKS_FOR, proveByLink } from './links.ts';
import { answering, limitOf, signInWith, type AccountOptions, type AccountServices } from './signIn.ts';
import { endTokensOf } from './tokens.ts';
import { shownBy, wallClock } from '../platform/process/clock.ts';
import { removeRows, updateRows, upsertRow, updateRow } from '../platform/database/writing.ts';
import { holdingCourse, alsoAccount, withNewAccount } from './holding.ts';

/** Invitations of one course that nobody has accepted yet. */
const MOST_OPEN = 200;
export function peopleRoutes(door: Door, services: AccountServices, options: AccountOptions): void {
  const { orm, reading, linkBase } = services;
  const answer = answering(services, options);

  door.on(contract.people.terms, async ({ course, body: { assistantsDecide } }) => {
    await holdingCourse(orm, course, (tx) => upsertRow(tx, courseAccessHolds, { course, assistantsDecide }));
  });

  door.on(contract.people.setRole, async ({ course, path, body: { role } }) => {
    await holdingCourse(orm, course, async (tx) => {
      const access = await accessRow(tx, course, idOf(path.account));
      const was = access.role;
      await updateRow(tx, accessHolds, access, { role });
      if (was === 'owner' && role !== 'owner') await noLongerOwner(tx, course, access.account);
      await options.onPart(tx, course, access.account, role);
    });
  });

  door.on(contract.people.takeAway, async ({ course, path }) => {
    await holdingCourse(orm, course, (tx) => remove(tx, course, idOf(path.account), options));
  });

  door.on(contract.people.leave, async ({ course, account }) => {
    await holdingCourse(orm, course, (tx) => remove(tx, course, account, options));
  });

  door.on(contract.people.invite, async ({ course, account, actor, body: { email, role } }) => {
    const base = linkBase();
    if (base === null) throw new AppError('noPublicAddress');
    const inviter = await orm.em.fork().findOneOrFail(Account, { id: account });
    if (inviter.isUnproven) throw new AppError('addressNotProven');
    const { id, secret, by } = await holdingCourse(orm, course, async (tx) => {
      await mustNotInviteMany(tx, actor);
      const known = await tx.findOne(Account, { email });
      if (known && (await tx.count(Access, { course, account: known.id })) > 0) throw new AppError('hasAccess');
      const now = wallClock();
      const open = { kind: 'invitation' as const, course, usedAt: null, endsAt: { $gt: now } };
      if ((await tx.count(LinkRow, open)) >= MOST_OPEN)
        throw new AppError('invalidInput', [
          { path: 'email', code: 'tooMany', message: `At most ${MOST_OPEN} invitations wait at a time` },
        ]);
      // The one before to the same address works no more.
      await updateRows(tx, linkHolds, { ...open, email }, { usedAt: now });
      const made = await makeLink(tx, 'invitation', { email, course, role, by: actor });
      return { ...made, by: (await actorNames(tx, [actor]))(actor) };
    });
    const [title] = await options.titlesOf(reading.em.fork(), [course]);
    const link = linkOf(base, 'invitation', secret);
    const mailed = await sendAccountMail(services, {
      to: { name: '', address: email },
      subject: `${by} invites you to ${title!.code} in Zest Bell`,
      text: `${by} invites you to ${title!.code} ${title!.title} in Zest Bell. Your role there: ${role}. To accept, open this link within ${WORKS_FOR.invitation / DAY} days:\n\n${link}\n\nThe link works once, and for this address alone.`,
    });
    // A link that somebody has seen proves nothing of who opens it.
    const isShown = !mailed && inviter.isAdministrator;
    if (isShown) await holdingCourse(orm, course, (tx) => updateRows(tx, linkHolds, { id, course }, { isShown: true }));
    return { id, mailed, link: isShown ? link : null };
  });

  door.on(contract.people.withdraw, async ({ course, path }) => {
    const open = { kind: 'invitation' as const, course, id: idOf(path.invitation), usedAt: null };
    const gone = await holdingCourse(orm, course, (tx) => updateRows(tx, linkHolds, open, { usedAt: wallClock() }));
    if (gone === 0) throw new AppError('notFound');
  });

  const limit = { guards: [limitOf(orm, 'invited', 100)] };
  door.on(
    contract.people.lookAtInvitation,
    async ({ body: { secret } }) => {
      const em = reading.em.fork();
      const { email, role, by, course, endsAt } = await openLink(em, 'invitation', secret);
      const [title] = await options.titlesOf(em, [course!]);
      if (!title) throw new AppError('linkUsed');
      const hasAccount = (await em.count(Account, { email })) > 0;
      return {
        email,
        role: role!,
        by: (await actorNames(em, [by]))(by),
        course: title,
        hasAccount,
        endsAt: shownBy(services.clock, endsAt),
      };
    },
    limit,
  );

  door.on(
    contract.people.accept,
    async ({ body: { secret, account: wanted }, req }) => {
      // Hashed before anything is locked.
      const passwordHash = wanted && (await hashPassword(wanted.password));
      const { made } = await inTransaction(orm, async (tx) => {
        const link = await useLink(tx, 'invitation', secret);
        const { email, isShown } = link;
        const join = async (mine: Tx<'account'>, row: Account) => {
          // A link that was mailed and shown to nobody proves the address.
          if (!isShown) await proveByLink(mine, row);
          await acceptFor(mine, row, link, req.ip ?? '');
          return row;
        };
        const { session } = req;
        const here = session.account === undefined ? null : await tx.findOne(Account, { id: session.account });
        if (here && here.email !== email) throw new AppError('otherPerson');
        const known = here ?? (await tx.findOne(Account, { email }));
        if (known && !here) throw new AppError('signInToAccept');
        if (!known && !wanted)
          throw new AppError('invalidInput', [
            { path: 'account', code: 'missing', message: 'Type your name and a password' },
          ]);
        if (!known && (await passwordsAreOff(tx, services.fixed))) throw new AppError('passwordsOff');
        if (wanted && !known) mustNotBeCommon(wanted.password, email, 'account.password');
        if (known) {
          await alsoAccount(tx, known.id, join);
          return { made: null };
        }
        const person = { name: wanted!.name, email, passwordHash: passwordHash!, createdAt: wallClock() };
        return { made: await withNewAccount(tx, { ...person, isUnproven: isShown }, join) };
      });
      if (made) await signInWith(orm.em.fork(), req, made);
      return answer(req);
    },
    limit,
  );
}

/** Invitations of one account, by the real clock. */
const MOST_INVITATIONS = [
  { most: 20, within: HOUR },
  { most: 100, within: DAY },
] as const;

/** Throws `tooManyInvitations`, with when the next may be sent. */
async function mustNotInviteMany(tx: Tx, by: Actor, now = wallClock()): Promise<void> {
  for (const { most, within } of MOST_INVITATIONS) {
    const own = { kind: 'invitation' as const, by, at: { $gt: now - within } };
    const order = { orderBy: { at: 'desc' }, limit: most, fields: ['at'], disableIdentityMap: true } as const;
    const last = await tx.find(LinkRow, own, order);
    if (last.length < most) continue;
    const retryAfter = Math.ceil((last.at(-1)!.at + within - now) / 1000);
    throw new AppError('tooManyInvitations', [], { retryAfter });
  }
}

async function accessRow(em: Em, course: number, account: number): Promise<Access> {
  const row = await em.findOne(Access, { course, account });
  if (!row) throw new AppError('notFound');
  return row;
}

/** Throws `lastOwner`. What programs of theirs came in with ends. */
async function noLongerOwner(tx: Tx<'course'>, course: number, account: number): Promise<void> {
  if ((await tx.count(Access, { course, role: 'owner' })) === 0) throw new AppError('lastOwner');
  await endTokensOf(tx, course, account);
}

async function remove(
  tx: Tx<'course'>,
  course: number,
  account: number,
  { onPart }: Pick<AccountOptions, 'onPart'>,
): Promise<void> {
  const { role } = await accessRow(tx, course, account);
  await removeRows(tx, accessHolds, { course, account });
  if (role === 'owner') await noLongerOwner(tx, course, account);
  await onPart(tx, course, account, null);
}

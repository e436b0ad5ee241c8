/** Who has access to a course, beside its roster; and an installation as its administrators keep it, without any student. */
import { accountActor, ACCESS_ROLES } from '@zest-bell/core/access';
import { contract } from '@zest-bell/core/contract';
import type { Clock } from '@zest-bell/core/time';
import type { AccessAnswer, AdminCourse, AdminPerson } from '@zest-bell/core/exchange';
import type { Door } from '../../access/door.ts';
import { Access, Account, LinkRow, mailOf, PasskeyRow, SessionRow, accountHolds } from '../../access/entity.ts';
import { actorNames } from '../../access/audit.ts';
import { JoinedAccountRow } from '../../access/directory/entity.ts';
import { idOf } from '../../access/pathIds.ts';
import { sendChangeNotice } from '../../access/accountMail.ts';
import { removeFactors } from '../../access/factors.ts';
import { installationOf, setInstallation } from '../../access/installation.ts';
import { mayIn, termsOf } from '../../access/permissions.ts';
import { prove } from '../../access/links.ts';
import { mustBeFresh } from '../../access/signIn.ts';
import { sendersFromBefore } from './sendersFromBefore.ts';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { titlesOf } from '../../course/titles.ts';
import { staleSources } from '../../course/waiting.ts';
import { noticesNow } from '../../platform/notices/notices.ts';
import { MailTroubleRow } from '../../mail/outbox/entity.ts';
import { TroubleRow } from '../../rounds/deciding/entity.ts';
import { shownBy, wallClock } from '../../platform/process/clock.ts';
import { inAccount, inInstallation } from '../../access/holding.ts';
import { updateRow } from '../../platform/database/writing.ts';

const MOST_TROUBLES = 500;
const FIXABLE = ['sender', 'senderDomains'] as const;
type FixableField = (typeof FIXABLE)[number];

export function accessRoutes(door: Door, { reading, clock }: IntakeServices): void {
  door.on(contract.people.access, async ({ course, account }) => {
    const em = reading.em.fork();
    const rows = await em.find(Access, { course });
    const accounts = new Map(
      (await em.find(Account, { id: { $in: rows.map((r) => r.account) } })).map((a) => [a.id, a]),
    );
    const people = rows
      .map(({ account: id, role }) => {
        const row = accounts.get(id)!;
        return { account: id, name: row.name, email: mailOf(row) ?? '', role, isYou: id === account };
      })
      .sort((a, b) => ACCESS_ROLES.indexOf(a.role) - ACCESS_ROLES.indexOf(b.role) || a.name.localeCompare(b.name));
    const invites = await mayIn(em, account, course, 'access.write');
    const invitations = invites ? await openInvitations(em, course, clock) : [];
    const taken = new Set([...people, ...invitations].map((p) => p.email.toLowerCase()));
    const staff = { course, role: { $in: ['instructor' as const, 'assistant' as const] }, active: true };
    const roster = invites ? await em.find(PersonRow, staff, { orderBy: { position: 'asc' }, limit: 100 }) : [];
    return {
      people,
      invitations,
      assistantsDecide: (await termsOf(em, course)).assistantsDecide,
      onRoster: roster.flatMap(({ email, firstName, lastName }) =>
        email == null || taken.has(email.toLowerCase()) ? [] : [{ name: `${firstName} ${lastName}`.trim(), email }],
      ),
    } satisfies AccessAnswer;
  });
}

async function openInvitations(em: Em, course: number, clock: Clock): Promise<AccessAnswer['invitations']> {
  const open = { kind: 'invitation' as const, course, usedAt: null, endsAt: { $gt: wallClock() } };
  const rows = await em.find(LinkRow, open, { orderBy: { id: 'desc' } });
  const name = await actorNames(
    em,
    rows.map((r) => r.by),
  );
  return rows.map(({ id, email, role, by, at, endsAt }) => ({
    id,
    email,
    role: role!,
    by: name(by),
    at: shownBy(clock, at),
    endsAt: shownBy(clock, endsAt),
  }));
}

/** A page of rows in the order of their ids. */
const pageOf = ({ after, limit }: { readonly after?: number | undefined; readonly limit: number }) => ({
  where: after === undefined ? {} : { id: { $gt: after } },
  order: { orderBy: { id: 'asc' }, limit: limit + 1, disableIdentityMap: true } as const,
});
const nextOf = (rows: readonly { readonly id: number }[], limit: number): number | null =>
  rows.length > limit ? rows[limit - 1]!.id : null;

export function adminRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, clock, fixed } = services;
  door.on(contract.admin.people, async ({ account, query }) => {
    const em = reading.em.fork();
    const { where, order } = pageOf(query);
    const rows = await em.find(Account, where, order);
    const ids = rows.map((r) => r.id);
    const [parts, passkeys, sessions] = [
      await em.find(Access, { account: { $in: ids } }, { disableIdentityMap: true }),
      await em.find(PasskeyRow, { account: { $in: ids } }, { fields: ['account'], disableIdentityMap: true }),
      await em.find(SessionRow, { account: { $in: ids } }, { fields: ['account', 'seenAt'], disableIdentityMap: true }),
    ];
    const joined = await em.find(JoinedAccountRow, { account: { $in: ids } }, { disableIdentityMap: true });
    const nameOf = await actorNames(
      em,
      joined.map((j) => accountActor(j.to)),
    );
    const people = rows.slice(0, query.limit).map((row): AdminPerson => {
      const seen = sessions.filter((s) => s.account === row.id).map((s) => s.seenAt);
      const hasPasskey = passkeys.some((p) => p.account === row.id);
      return {
        account: row.id,
        name: row.name,
        email: mailOf(row) ?? '',
        isAdministrator: row.isAdministrator,
        isYou: row.id === account,
        courses: parts.filter((p) => p.account === row.id).length,
        factors: [...(row.totp == null ? [] : (['totp'] as const)), ...(hasPasskey ? (['passkey'] as const) : [])],
        seenAt: seen.length === 0 ? null : Math.max(...seen),
        joinedTo: joined.filter((j) => j.account === row.id).map((j) => nameOf(accountActor(j.to)))[0] ?? null,
      };
    });
    return { people, next: nextOf(rows, query.limit) };
  });

  door.on(contract.admin.setAdministrator, async ({ path, body: { isAdministrator }, req }) => {
    mustBeFresh(req);
    await inAccount(orm, idOf(path.account), async (tx, row) => {
      // Anyone who came by a launch has no password to be asked for.
      if (isAdministrator && row.passwordHash === '') throw new AppError('notAllowed');
      await updateRow(tx, accountHolds, row, { isAdministrator });
      if ((await tx.count(Account, { isAdministrator: true })) === 0) throw new AppError('lastAdministrator');
    });
  });

  door.on(contract.admin.resetFactors, async ({ path, req }) => {
    mustBeFresh(req);
    const account = idOf(path.account);
    await inAccount(orm, account, (tx) => removeFactors(tx, account));
    sendChangeNotice(services, account, 'factorsReset');
  });

  door.on(contract.admin.courses, async ({ query }) => {
    const em = reading.em.fork();
    const { where, order } = pageOf(query);
    const fields = ['id', 'code', 'title', 'archivedAt', 'stoppedAt'] as const;
    const rows = await em.find(CourseRow, where, { ...order, fields });
    const ids = rows.map((r) => r.id);
    const owners = await em.find(Access, { course: { $in: ids }, role: 'owner' }, { disableIdentityMap: true });
    const names = new Map(
      (await em.find(Account, { id: { $in: owners.map((o) => o.account) } }, { fields: ['name'] })).map((a) => [
        a.id,
        a.name,
      ]),
    );
    const courses: AdminCourse[] = [];
    for (const { id, code, title, archivedAt, stoppedAt } of rows.slice(0, query.limit))
      courses.push({
        id,
        code,
        title,
        isArchived: archivedAt != null,
        isStopped: stoppedAt != null,
        owners: owners.filter((o) => o.course === id).map((o) => names.get(o.account) ?? ''),
        students: await em.count(PersonRow, { course: id, role: 'student', active: true }),
        rulesOn: await em.count(RuleRow, { course: id, status: 'on' }),
      });
    return { courses, next: nextOf(rows, query.limit) };
  });

  /** Of all courses, without a student: what keeps rules or mail waiting. */
  door.on(contract.admin.troubles, async () => {
    const em = reading.em.fork();
    const look = { disableIdentityMap: true } as const;
    const now = clock.now();
    const today = new Date(now).toISOString().slice(0, 10);
    const mail = await em.find(MailTroubleRow, {}, look);
    const rounds = await em.find(TroubleRow, {}, { ...look, orderBy: { since: 'asc' }, limit: MOST_TROUBLES });
    const stopped = await em.find(
      CourseRow,
      { stoppedAt: { $ne: null }, archivedAt: null },
      { ...look, fields: ['id', 'stoppedAt'] },
    );
    const told = await em.find(
      CourseRow,
      { archivedAt: null, start: { $lte: today }, end: { $gte: today } },
      { ...look, fields: ['id', 'guards', 'heardAt', 'sources', 'start', 'end', 'timeZone'] },
    );
    const notices = await noticesNow(em);
    const all = [
      ...notices.map((n) => ({ course: null, kind: n.kind, since: n.since, says: n.says })),
      ...mail.map((m) => ({ course: m.course || null, kind: 'mail' as const, since: m.since, says: m.response })),
      ...rounds.map((r) => ({ course: r.course, kind: 'round' as const, since: r.since, says: r.message })),
      ...stopped.map((c) => ({ course: c.id, kind: 'stopped' as const, since: c.stoppedAt!, says: '' })),
      ...told.flatMap((c) =>
        staleSources(c, now).size === 0
          ? []
          : [{ course: c.id, kind: 'stale' as const, since: c.heardAt ?? null, says: '' }],
      ),
    ];
    const titles = new Map(
      (await titlesOf(em, [...new Set(all.flatMap((t) => t.course ?? []))])).map((t) => [t.id, t.code]),
    );
    return all
      .slice(0, MOST_TROUBLES)
      .map((t) => ({ ...t, course: t.course === null ? null : (titles.get(t.course) ?? null) }));
  });

  door.on(contract.admin.settings, async () => {
    const settings = await installationOf(reading.em.fork());
    return {
      ...settings,
      sender: fixed.sender ?? settings.sender,
      senderDomains: fixed.senderDomains ?? settings.senderDomains,
      fixed: FIXABLE.filter((name) => fixed[name] !== null),
    };
  });
  door.on(contract.admin.setSettings, async ({ body, req }) => {
    mustBeFresh(req);
    const said = Object.entries(body).filter(
      ([name]) => !(FIXABLE as readonly string[]).includes(name) || fixed[name as FixableField] === null,
    );
    await inInstallation(orm, (tx) => setInstallation(tx, Object.fromEntries(said)));
    await services.refreshInstallationSender();
  });

  door.on(contract.admin.senders, () => sendersFromBefore(reading.em.fork()));

  /** An administrator answers for an address: it counts as proven for the account. The audit log says who did it. */
  door.on(contract.admin.acceptAddress, async ({ body: { account, address }, req }) => {
    mustBeFresh(req);
    await inAccount(orm, account, (tx) => prove(tx, account, address, 'administrator'));
  });
}

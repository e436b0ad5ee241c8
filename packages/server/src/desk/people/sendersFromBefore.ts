/** Senders that are in use although nobody has proven their addresses: those from before that was asked. */
import type { UnprovenSender } from '@zest-bell/core/exchange';
import { Access, Account, ProvenAddressRow } from '../../access/entity.ts';
import { CourseRow, OwnSenderRow } from '../../course/entity.ts';
import type { Em } from '../../platform/database/orm.ts';

const LOOK = { disableIdentityMap: true } as const;

export async function sendersFromBefore(em: Em): Promise<UnprovenSender[]> {
  const fields = ['id', 'code', 'title', 'sender', 'senderBy'] as const;
  const courses = await em.find(CourseRow, { archivedAt: null }, { ...LOOK, fields, orderBy: { id: 'asc' } });
  const ids = courses.map((c) => c.id);
  const owners = await em.find(Access, { course: { $in: ids }, role: 'owner' }, { ...LOOK, orderBy: { id: 'asc' } });
  const own = await em.find(OwnSenderRow, { course: { $in: ids }, isChecked: false }, LOOK);
  const used = [
    ...courses.flatMap((course) => {
      const owner = owners.find((o) => o.course === course.id);
      return course.senderBy == null && owner ? [{ course, account: owner.account, sender: course.sender }] : [];
    }),
    ...own.flatMap((o) => {
      const course = courses.find((c) => c.id === o.course);
      return course ? [{ course, account: o.account, sender: o.sender }] : [];
    }),
  ];
  const accounts = [...new Set(used.map((u) => u.account))];
  const proven = new Set(
    (await em.find(ProvenAddressRow, { account: { $in: accounts } }, LOOK)).map((p) => `${p.account} ${p.address}`),
  );
  const names = new Map(
    (await em.find(Account, { id: { $in: accounts } }, { ...LOOK, fields: ['id', 'name'] })).map((a) => [a.id, a.name]),
  );
  return used.flatMap(({ course: { id, code, title }, account, sender }) => {
    const addresses = [...new Set([sender.address, sender.replyTo])].filter(
      (address) => address !== '' && !proven.has(`${account} ${address.toLowerCase()}`),
    );
    if (addresses.length === 0) return [];
    const who = { id: account, name: names.get(account) ?? '' };
    return [{ course: { id, code, title }, account: who, name: sender.name, addresses }];
  });
}

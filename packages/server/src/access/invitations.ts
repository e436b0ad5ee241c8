/** What accepting an invitation gives an account. */
import { accountActor } from '@zest-bell/core/access';
import { contract } from '@zest-bell/core/contract';
import type { Tx } from '../platform/database/orm.ts';
import { insertRow } from '../platform/database/writing.ts';
import { actOf, noteAct } from './audit.ts';
import { Access, accessHolds, type Account, type LinkRow } from './entity.ts';
import { alsoHoldingCourse } from './holding.ts';

/** Gives an account its part in the course of an invitation. Who has access already keeps what they have. */
export const acceptFor = (
  tx: Tx<'account'>,
  { id: account }: Account,
  { course, role }: LinkRow,
  from: string,
): Promise<void> =>
  alsoHoldingCourse(tx, course!, async (held) => {
    if ((await held.count(Access, { account, course: course! })) === 0)
      await insertRow(held, accessHolds, { account, course: course!, role: role! });
    const act = { course: course!, by: accountActor(account), about: {}, from };
    await noteAct(held, { ...act, act: actOf(contract.people.accept) });
  });

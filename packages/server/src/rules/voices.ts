/** The voice that remains when somebody's role in a course changes. */
import { capabilitiesOf, type AccessRole } from '@zest-bell/core/access';
import { OwnSenderRow, ownSenderHolds } from '../course/entity.ts';
import { bumpVersions } from '../course/versions.ts';
import type { Tx } from '../platform/database/orm.ts';
import { ruleHolds } from './entity.ts';
import { removeRows, updateRows } from '../platform/database/writing.ts';

/** Rules of somebody who may no longer run them write as the course; who left signs nothing more. Null for nobody any more. */
export async function keepVoices(
  tx: Tx<'course'>,
  course: number,
  account: number,
  role: AccessRole | null,
): Promise<void> {
  const may = role === null ? [] : capabilitiesOf(role, { assistantsDecide: true });
  if (!may.includes('rules.run')) await updateRows(tx, ruleHolds, { course, owner: account }, { owner: 0 });
  if (!may.includes('nudges.decide')) await removeRows(tx, ownSenderHolds, { course, account });
  await bumpVersions(tx, course);
}

/** What one account signs becomes what another signs, where somebody has joined the two. */
export async function passVoices(tx: Tx<'course'>, course: number, from: number, to: number): Promise<void> {
  await updateRows(tx, ruleHolds, { course, owner: from }, { owner: to });
  if ((await tx.count(OwnSenderRow, { course, account: to })) > 0)
    await removeRows(tx, ownSenderHolds, { course, account: from });
  else await updateRows(tx, ownSenderHolds, { course, account: from }, { account: to });
  await bumpVersions(tx, course);
}

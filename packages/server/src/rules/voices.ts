/** The voice that remains when somebody's role in a course changes. */
import { capabilitiesOf, type AccessRole } from '@zest-bell/core/access';
import { ownSenderHolds } from '../course/entity.ts';
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

/** Who is of which set: put in, found, and out again. */
import type { ConfirmedMatches } from '@zest-bell/core/carry';
import type { SetKind } from '@zest-bell/core/exchange';
import { reverseMatches } from '@zest-bell/core/sets';
import type { Instant } from '@zest-bell/core/time';
import type { Em, Tx } from '../../platform/database/orm.ts';
import {
  CourseMatchRow,
  SetMemberRow,
  SetRow,
  setHolds,
  setVersionHolds,
  setMemberHolds,
  courseMatchHolds,
} from './entity.ts';
import type { Actor } from '@zest-bell/core/access';
import { insertRow, removeRows, updateRow } from '../../platform/database/writing.ts';

/** A copy, by its place. */
export interface CopyName {
  readonly kind: SetKind;
  readonly course: number;
  readonly key: string;
}

export interface NewSetVersion {
  readonly document: object;
  readonly by: Actor;
  readonly now: Instant;
}

export const memberOf = (em: Em, { kind, course, key }: CopyName): Promise<SetMemberRow | null> =>
  em.findOne(SetMemberRow, { kind, course, key });

/** The set that a copy is of; one that is of none begins one, with what it says now. */
export async function setOf(
  tx: Tx<'course'>,
  copy: CopyName,
  saying: NewSetVersion,
): Promise<{ set: SetRow; member: SetMemberRow }> {
  const known = await memberOf(tx, copy);
  if (known) return { set: await tx.findOneOrFail(SetRow, { id: known.set }), member: known };
  const set = await insertRow(tx, setHolds, { kind: copy.kind, version: 1 });
  await insertRow(tx, setVersionHolds, versionOf(set.id, 1, copy.course, saying));
  const member = await insertRow(tx, setMemberHolds, { ...copy, set: set.id, from: 1, pending: null });
  return { set, member };
}

/** What the set says from now on, in the words of one of its courses. */
export async function nextVersion(
  tx: Tx<'course'>,
  set: SetRow,
  course: number,
  saying: NewSetVersion,
): Promise<number> {
  await updateRow(tx, setHolds, set, { version: set.version + 1 });
  await insertRow(tx, setVersionHolds, versionOf(set.id, set.version, course, saying));
  return set.version;
}

const versionOf = (set: number, version: number, course: number, { document, by, now: at }: NewSetVersion) => ({
  set,
  version,
  course,
  document,
  by,
  at,
});

/** A further copy of a set; one that is of a set already stays there. */
export async function joinSet(tx: Tx<'course'>, set: SetRow, copy: CopyName): Promise<void> {
  if (await memberOf(tx, copy)) return;
  await insertRow(tx, setMemberHolds, { ...copy, set: set.id, from: set.version, pending: null });
}

/** A copy that is gone, or is kept apart, is of no set; the others go on. */
export async function leaveSet(
  tx: Tx<'course'>,
  kind: SetKind,
  course: number,
  keys: readonly string[],
): Promise<void> {
  if (keys.length > 0) await removeRows(tx, setMemberHolds, { kind, course, key: { $in: [...keys] } });
}

/** What somebody said of the items of two courses, from the one to the other. */
export async function confirmedMatches(em: Em, course: number, other: number): Promise<ConfirmedMatches> {
  const rows = await em.find(
    CourseMatchRow,
    {
      $or: [
        { course, other },
        { course: other, other: course },
      ],
    },
    { disableIdentityMap: true },
  );
  const back = rows.find((r) => r.course === other)?.told ?? {};
  return { ...reverseMatches(back), ...rows.find((r) => r.course === course)?.told };
}

export async function storeMatches(
  tx: Tx<'course'>,
  course: number,
  other: number,
  told: ConfirmedMatches,
): Promise<void> {
  const row = await tx.findOne(CourseMatchRow, { course, other });
  if (row) await updateRow(tx, courseMatchHolds, row, { told: { ...row.told, ...told } });
  else await insertRow(tx, courseMatchHolds, { course, other, told });
}

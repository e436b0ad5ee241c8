/** What a launch began for a student ends with the student: nobody who was erased has a page open, and nothing names them. */
import { SessionRow, sessionHolds } from '../../access/entity.ts';
import type { LaunchSession } from '../../access/signIn.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { LaunchCodeRow, launchCodeHolds } from './entity.ts';
import { removeRows } from '../../platform/database/writing.ts';

export async function endLaunchesOf(tx: Tx, course: number, person: string): Promise<void> {
  const isTheirs = ({ student }: Partial<LaunchSession>) => student?.course === course && student.person === person;
  const ofStudents = { account: null, data: { $like: '%"student":{%' } };
  for (const { id, data } of await tx.find(SessionRow, ofStudents, { disableIdentityMap: true }))
    if (isTheirs(JSON.parse(data) as Partial<LaunchSession>)) await removeRows(tx, sessionHolds, { id });
  // A few, each good for a minute.
  for (const { hash, session } of await tx.find(LaunchCodeRow, {}, { disableIdentityMap: true }))
    if (isTheirs(session)) await removeRows(tx, launchCodeHolds, { hash });
}

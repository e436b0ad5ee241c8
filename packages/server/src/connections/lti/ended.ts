/** What a launch began for a student ends with the student: nobody who was erased has a page open, and nothing names them. */
import type { LaunchSession } from '../../access/signing.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { rowsOf, run } from '../../platform/database/query.ts';
import { LaunchCodeRow } from './entity.ts';

export async function endLaunchesOf(tx: Tx, course: number, person: string): Promise<void> {
  const isTheirs = ({ student }: Partial<LaunchSession>) => student?.course === course && student.person === person;
  const sessions = () => tx.getKnex()('session');
  const of = await rowsOf<{ id: string; data: string }>(
    tx,
    sessions().select(['id', 'data']).whereNull('account').where('data', 'like', '%"student":{%'),
  );
  const ids = of.filter(({ data }) => isTheirs(JSON.parse(data) as Partial<LaunchSession>)).map(({ id }) => id);
  if (ids.length > 0) await run(tx, sessions().whereIn('id', ids).delete());
  // A few, each good for a minute.
  for (const code of await tx.find(LaunchCodeRow, {})) if (isTheirs(code.session)) tx.remove(code);
  await tx.flush();
}

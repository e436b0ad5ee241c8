import { isProven } from '../../access/links.ts';
import { senderProblems } from '../../course/senderProof.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { Side, CarrySource } from './sides.ts';

/** Whether the source’s sender is the account itself, whom its answers reach, and may be used in the target as it is. */
export async function isOwnSender(
  em: Em,
  account: number,
  { sender }: Pick<CarrySource, 'sender'>,
  { live: { id, row, fixed } }: Side,
): Promise<boolean> {
  if (!sender || !(await isProven(em, account, sender.replyTo))) return false;
  return (await senderProblems(em, fixed, { course: id, account, sender, before: row.sender })).length === 0;
}

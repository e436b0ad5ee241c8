/**
 * Whether a sender's addresses may be used. An address that messages come from is proven for the account that sets it and, where the
 * installation has a list, on that list. An address for replies is proven for any member of the course. Only what changes is checked, so
 * senders from before this was asked keep working.
 */
import type { Problem } from '@zest-bell/core/problem';
import { isOnSenderList, type OwnSender, type SenderSettings } from '@zest-bell/core/course';
import { NOT_PROVEN } from '@zest-bell/core/exchange';
import { Access } from '../access/entity.ts';
import { senderListOf } from '../access/installation.ts';
import { isProven, isProvenByAny } from '../access/links.ts';
import { AppError } from '../platform/errors/errors.ts';
import type { Em } from '../platform/database/orm.ts';
import type { FixedSettings } from '../platform/services.ts';
import type { LiveCourse } from './activity/live.ts';
import { CourseRow, OwnSenderRow } from './entity.ts';

type Addresses = Pick<SenderSettings, 'address' | 'replyTo'>;

export interface SenderToCheck {
  readonly course: number;
  /** For which the address must be proven. */
  readonly account: number;
  readonly sender: Addresses;
  /** What is not other than this is not checked. */
  readonly before?: Addresses | null | undefined;
}

/** Empty where the sender may be used. The paths are those of the sender's form. */
export async function senderProblems(em: Em, fixed: FixedSettings, check: SenderToCheck): Promise<Problem[]> {
  const { course, account, sender, before } = check;
  const problems: Problem[] = [];
  const { address, replyTo } = sender;
  // Empty: from the installation's own address.
  if (address !== '' && address !== before?.address) {
    const list = await senderListOf(em, fixed);
    if (!isOnSenderList(address, list))
      problems.push({
        path: 'sender.address',
        code: 'senderNotAllowed',
        message: `Your installation sends from ${list.join(', ')} only.`,
      });
    else if (!(await isProven(em, account, address)))
      problems.push({ path: 'sender.address', code: 'senderNotProven', message: NOT_PROVEN });
  }
  if (replyTo !== before?.replyTo) {
    const members = await em.find(Access, { course }, { fields: ['account'], disableIdentityMap: true });
    if (!(await isProvenByAny(em, [account, ...members.map((m) => m.account)], replyTo)))
      problems.push({ path: 'sender.replyTo', code: 'senderNotProven', message: NOT_PROVEN });
  }
  return problems;
}

/** Throws `senderNotAllowed` or `senderNotProven` with a problem for each field. */
export async function mustBeProven(em: Em, fixed: FixedSettings, check: SenderToCheck): Promise<void> {
  const problems = await senderProblems(em, fixed, check);
  if (problems.length === 0) return;
  const isRefused = problems.some((p) => p.code === 'senderNotAllowed');
  throw new AppError(isRefused ? 'senderNotAllowed' : 'senderNotProven', problems);
}

/**
 * Checks the sender with which somebody's messages leave, before a rule is turned on and before mail is written by hand. Throws like
 * `mustBeProven`.
 */
export async function voiceMustBeProven(
  em: Em,
  { id: course, fixed }: Pick<LiveCourse, 'id' | 'fixed'>,
  writer: number | null | undefined,
): Promise<void> {
  const own = await em.findOne(OwnSenderRow, { course, account: writer ?? 0 }, { disableIdentityMap: true });
  if (own) {
    if (own.isChecked) await mustBeProven(em, fixed, { course, account: own.account, sender: own.sender });
    return;
  }
  const row = await em.findOneOrFail(CourseRow, { id: course }, { disableIdentityMap: true });
  if (row.senderBy != null) await mustBeProven(em, fixed, { course, account: row.senderBy, sender: row.sender });
}

/** The sender that a new course begins with: its instructor's own address, or the installation's where that may not be used. */
export async function firstSender(
  em: Em,
  fixed: FixedSettings,
  { name, email }: { readonly name: string; readonly email: string },
): Promise<SenderSettings & OwnSender> {
  const isAllowed = isOnSenderList(email, await senderListOf(em, fixed));
  return { name, address: isAllowed ? email : '', replyTo: email, signature: name, officeHours: '' };
}

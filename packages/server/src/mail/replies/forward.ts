/** Passes replies on to the instructor. */
import type { ForwardState } from '@zest-bell/core/exchange';
import { DAY, type Instant } from '@zest-bell/core/time';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';
import { voiceIn } from '../../course/voice.ts';
import { NudgeRow } from '../nudges/entity.ts';
import { writersOf } from '../byHand/writers.ts';
import { PlainMailRow } from '../plainMail/entity.ts';
import { queuePlainMail } from '../plainMail/queue.ts';
import type { ReplyRow } from './entity.ts';
import { namedActor } from '@zest-bell/core/access';

/** Replies to one nudge that are passed on within a day: a robot that answers every answer ends here. */
const MOST_FORWARDS = 5;

export async function mayForward(em: Em, nudge: number, now: Instant): Promise<boolean> {
  return (await em.count(PlainMailRow, { nudge, kind: 'forward', at: { $gt: now - DAY } })) < MOST_FORWARDS;
}

export async function forward(em: Tx<'course'>, reply: ReplyRow, now: Instant): Promise<void> {
  // To the author of what it answers.
  const nudge = await em.findOneOrFail(NudgeRow, { id: reply.nudge });
  const writer = (await writersOf(em, [nudge])).get(nudge.id);
  const { name, replyTo } = await voiceIn(em, reply.course, writer);
  await queuePlainMail(
    em,
    {
      kind: 'forward',
      course: reply.course,
      reply: reply.id,
      nudge: reply.nudge,
      by: namedActor(''),
      at: now,
      subject: '',
      text: '',
      messageId: '',
      inReplyTo: null,
    },
    { name, address: replyTo, now },
  );
}

/** How far replies are on their way, by their id; none for those that are not passed on. */
export async function forwardStates(em: Em, replies: readonly number[]): Promise<ReadonlyMap<number, ForwardState>> {
  const query = em
    .getKnex()('plain_mail as p')
    .join('message as m', 'm.plain_mail', 'p.id')
    .whereIn('p.reply', [...replies])
    .where('p.kind', 'forward')
    .select('p.reply', 'm.state');
  const rows = await rowsOf<{ reply: number; state: ForwardState }>(em, query);
  return new Map(rows.map((r) => [r.reply, r.state]));
}

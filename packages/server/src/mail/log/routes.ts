/** The send log, and the instructor's word about messages that wait or went wrong. */
import { textResults } from '@zest-bell/core/outcomes';
import type { OutcomesAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import { approve, dismiss, settleByHand } from '../outbox/approval.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import type { MailHandOver } from '../outbox/handsOver.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { CourseServices } from '../../course/services.ts';
import { setOff } from '../../platform/work/setOff.ts';
import { grouped } from '@zest-bell/core/course';
import { sentTexts } from '../replies/sentTexts.ts';
import { ruleNames } from '../../rules/repository.ts';
import { detailOf } from './detail.ts';
import { logAnswer, withheldLines, type LogOf } from './query.ts';
import { inCourse } from '../../course/lock.ts';

export function sendLogRoutes(
  door: Door,
  { orm, reading, live, clock, logger }: CourseServices,
  dispatcher: MailHandOver,
): void {
  const logOf = async (em: Em, id: number): Promise<LogOf & { readonly live: LiveCourse }> => {
    const known = await live.get(em, id);
    return { id, course: known.course, rules: await ruleNames(em, id), live: known };
  };
  const detail = async (id: number, nudge: number) => {
    const em = orm.em.fork();
    const row = await em.findOne(NudgeRow, { id: nudge, course: id });
    if (!row) throw new AppError('notFound');
    return detailOf(em, row, await logOf(em, id));
  };
  /** What was decided is saved: mail that fails for another reason is no failure of the decision. */
  const sendNow = () => setOff(logger, () => dispatcher.drain());

  door.on(contract.mail.log, async ({ course: id, query }) => {
    const em = reading.em.fork();
    return await logAnswer(em, await logOf(em, id), query);
  });

  door.on(contract.mail.withheld, async ({ course: id, query }) => {
    const em = reading.em.fork();
    return await withheldLines(em, await logOf(em, id), query);
  });

  /** Who came back and who replied, as counts with their whole. */
  door.on(contract.mail.outcomes, async ({ course: id }) => {
    const em = reading.em.fork();
    const now = clock.now();
    const sent = await sentTexts(em, await live.get(em, id), now);
    const rules = [...grouped(sent, (n) => n.rule)].map(([rule, of]) => [rule, textResults(of, 1, now).all]);
    return {
      all: textResults(sent, 1, now).all,
      rules: Object.fromEntries(rules) as OutcomesAnswer['rules'],
    } satisfies OutcomesAnswer;
  });

  door.on(contract.mail.logged, async ({ course: id, path }) => {
    return await detail(id, idOf(path.nudge));
  });

  /** A yes or no to messages that wait, each separately. A yes is a hand-over: the second look comes first (engine R9). */
  door.on(contract.mail.decide, async ({ course: id, body: { as, messages }, path }) => {
    const nudge = idOf(path.nudge);
    await inCourse(orm, id, async (em) => {
      const rows = await em.find(MessageRow, { course: id, nudge, id: { $in: messages } });
      if (rows.length !== new Set(messages).size) throw new AppError('notFound');
      const { row } = await live.get(em, id);
      if (as === 'send') await approve(em, rows, row.sender, clock.now());
      else await dismiss(em, rows, clock.now());
    });
    if (as === 'send') await sendNow();
    return await detail(id, nudge);
  });

  /** What the instructor found out about a message that is unclear, or that one that failed goes again. */
  door.on(contract.mail.settle, async ({ course: id, body: { as }, path }) => {
    const nudge = await inCourse(orm, id, async (em) => {
      const message = await em.findOne(MessageRow, { id: idOf(path.message), course: id });
      if (message?.nudge == null) throw new AppError('notFound');
      await settleByHand(em, message, as, clock.now());
      return message.nudge;
    });
    if (as === 'sendAgain') await sendNow();
    return await detail(id, nudge);
  });
}

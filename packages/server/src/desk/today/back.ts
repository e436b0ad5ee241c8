/** Who came back since somebody wrote: what was sent, a line a nudge, and what came of it. */
import { actWords } from '@zest-bell/core/outcomes';
import type { BackAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { ruleNameIn, studentName } from '../../mail/log/query.ts';
import { sentNudges } from '../../mail/nudges/returns.ts';
import { replyHolds } from '../../mail/replies/entity.ts';
import { select } from '../../platform/database/query.ts';
import { ruleNames } from '../../rules/repository.ts';

export function backRoutes(door: Door, { reading, live, clock }: IntakeServices): void {
  door.on(contract.desk.back, async ({ course: id, query: { since } }) => {
    const em = reading.em.fork();
    const known = await live.get(em, id);
    const { course } = known;
    const sent = await sentNudges(em, known, clock.now(), { since });
    const names = await ruleNames(em, id);
    // A reply comes after what it answers.
    const replies = await select(em, replyHolds, ['nudge'], (query) =>
      query.where({ course: id, kind: 'reply' }).whereNotNull('student').where('at', '>=', since),
    );
    const answered = new Set(replies.map((r) => r.nudge));
    return {
      since,
      lines: sent.map((n) => ({
        nudge: n.nudge,
        student: n.student,
        name: studentName(course, n.student),
        sentAt: n.sentAt,
        ruleName: n.rule === null ? null : ruleNameIn(names, n.rule),
        canReturn: n.canReturn,
        back: n.returned && { at: n.returned.at, what: actWords(n.returned, course) },
        replied: n.replied ?? answered.has(n.nudge),
      })),
    } satisfies BackAnswer;
  });
}

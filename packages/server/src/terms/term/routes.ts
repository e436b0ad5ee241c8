/** The end of a term: what became of it, told in lines while it is computed, and as a PDF. */
import { contract, SENT } from '@zest-bell/core/contract';
import { conditionSentence } from '@zest-bell/core/conditions';
import { fileNameOf } from '@zest-bell/core/exports';
import type { TermReport } from '@zest-bell/core/term';
import type { Door } from '../../access/door.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { compareRoutes } from './compare.ts';
import { termLog } from './log.ts';
import { outcomeOf } from './outcome.ts';
import { termPdf } from './pdf.ts';

export function termRoutes(door: Door, services: IntakeServices): void {
  const { reading, live, clock, replays } = services;
  compareRoutes(door, services);
  async function orderOf(id: number, draft: unknown) {
    const em = reading.em.fork();
    const known = await live.get(em, id);
    const outcome = outcomeOf(draft, known.course);
    const now = clock.now();
    // What has not happened yet is no hindsight.
    const at = Math.min(now, known.course.calendar.end);
    return { known, order: { ...(await termLog(em, known, now)), outcome, at } };
  }

  door.on(contract.term.report, async ({ course, account, res, body: { outcome } }) => {
    const { known, order } = await orderOf(course, outcome);
    await replays.tell(account, res, 'term', known.facts, order);
    return SENT;
  });

  door.on(contract.term.pdf, async ({ course, account, res, body: { outcome } }) => {
    const { known, order } = await orderOf(course, outcome);
    const report = JSON.parse(await replays.result(account, res, 'term', known.facts, order)) as TermReport;
    const bytes = await termPdf(report, conditionSentence(order.outcome, known.course), known.course);
    const name = `${fileNameOf(`${known.course.code} how the term went`)}.pdf`;
    res.attachment(name).type('application/pdf').send(bytes);
    return SENT;
  });
}

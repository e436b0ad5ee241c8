/** A decision on what waits, course by course: what one course refuses stops no other. */
import { toast } from 'sonner';
import { type BodyGiven, contract } from '@zest-bell/core/contract';
import type { TrayDecided, TrayLine } from '@zest-bell/core/exchange';
import { ask, errorWords } from '../../lib/api.ts';

/** A line with its course. */
export interface DeskLine extends TrayLine {
  readonly course: number;
  readonly code: string;
}

type TrayRequest = BodyGiven<typeof contract.mail.decideTray>;
/** A decision, whichever nudges it is about. */
export type TrayDecision = TrayRequest extends infer D ? (D extends TrayRequest ? Omit<D, 'nudges'> : never) : never;

/** What became of all of them. Throws where no course took the decision. */
export async function decideEach(
  lines: readonly DeskLine[],
  order: TrayDecision,
): Promise<Pick<TrayDecided, 'done' | 'canceled'> & { readonly sendings: readonly TrayDecided['sending'][] }> {
  const courses = [...new Map(lines.map((l) => [l.course, l.code]))];
  const all: TrayDecided[] = [];
  for (const [course, code] of courses) {
    const nudges = lines.filter((l) => l.course === course).map((l) => l.nudge);
    try {
      all.push(await ask(contract.mail.decideTray, { course }, { body: { ...order, nudges } as TrayRequest }));
    } catch (error) {
      if (courses.length === 1) throw error;
      toast.error(`${code}: ${errorWords(error)}`);
    }
  }
  return {
    done: all.reduce((sum, d) => sum + d.done, 0),
    canceled: all.flatMap((d) => d.canceled),
    sendings: all.map((d) => d.sending),
  };
}

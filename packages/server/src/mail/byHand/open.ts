/** Messages by hand as they are made: each mailing with its text, and the course with the values that it has for its readers. */
import type { ParseResult } from '@zest-bell/core/problem';
import { HistoryFacts } from '@zest-bell/core/measures';
import { accountOf } from '@zest-bell/core/access';
import { mailingOf } from '@zest-bell/core/nudges';
import type { CompiledWording } from '@zest-bell/core/wording';
import { courseOfMailing, type MailingRows } from '@zest-bell/core/imports';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import { compiledOf } from '../../wording/repository.ts';
import { MailingRow } from './entity.ts';

export interface OpenMailing {
  readonly facts: HistoryFacts;
  /** Addresses outside the institution that were agreed to. */
  readonly outside: readonly string[];
  readonly wording: ParseResult<CompiledWording>;
  /** The account of the message; null for a program's. */
  readonly writer: number | null;
}

/** The mailings that these messages are of, by their id; one that is gone is not among them. */
export async function openMailings(
  em: Em,
  live: LiveCourse,
  messages: readonly { readonly wording: string; readonly student: string }[],
): Promise<ReadonlyMap<number, OpenMailing>> {
  const ids = [...new Set(messages.flatMap((m) => mailingOf(m.wording) ?? []))];
  if (ids.length === 0) return new Map();
  const mailings = await em.find(MailingRow, { course: live.id, id: { $in: ids } }, { disableIdentityMap: true });
  return new Map(
    mailings.map(({ id, rows, outside, wording, by }) => {
      const about = Object.fromEntries(
        messages.flatMap((m) => (Object.hasOwn(rows, m.student) ? [[m.student, rows[m.student]!]] : [])),
      );
      return [id, { facts: factsOfMailing(live, about), outside, wording: compiledOf(wording), writer: accountOf(by) }];
    }),
  );
}

/** The course as the messages of a mailing are made in. */
export const factsOfMailing = (live: LiveCourse, rows: MailingRows): HistoryFacts =>
  new HistoryFacts(courseOfMailing(live.course, rows), live.facts.history);

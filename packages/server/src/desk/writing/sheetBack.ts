/** A sheet as it comes back: its own columns, what was sent when, and for each address of a row whether a message went there. */
import { instantWords } from '@zest-bell/core/time';
import { isAddress, isSameAddress } from '@zest-bell/core/course';
import { LOGGED_WORDS } from '@zest-bell/core/exchange';
import { csvOf, type SheetLine } from '@zest-bell/core/imports';
import { STATE_NAMES } from '@zest-bell/core/nudges';
import { MessageRow, NudgeRow } from '../../mail/nudges/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { inSlices } from '../../platform/database/query.ts';

/** Its text as CSV, with moments in the given time zone. */
export async function sheetBack(
  em: Em,
  headers: readonly string[],
  lines: readonly SheetLine[],
  zone: string,
): Promise<string> {
  const mails = await mailsOf(em, lines);
  return csvOf([
    [...headers, 'Message', 'Message sent on', 'Sent to', 'Not sent to'],
    ...lines.map((line) => {
      const of = mails.get(line.written?.nudge ?? -1) ?? [];
      const sent = of.filter((m) => m.state === 'sent');
      const unsent = of.filter((m) => m.state !== 'sent');
      return [
        ...line.cells,
        line.written?.state ?? '',
        line.written?.state === 'sent' ? instantWords(line.written.at, zone) : '',
        sent.map((m) => `${m.address} (${instantWords(m.at, zone)})`).join('; '),
        [
          ...(line.why === null ? [] : [line.why]),
          ...unsent.map((m) => `${m.address} (${m.why})`),
          ...addressesWithout(line, of).map((address) => `${address} (no message)`),
        ].join('; '),
      ];
    }),
  ]);
}

type Mail = Pick<MessageRow, 'address' | 'state'> & {
  readonly at: number;
  /** Why it has not left. */
  readonly why: string;
};

/** Addresses in the row's cells to which there was no message. */
const addressesWithout = ({ cells }: SheetLine, mails: readonly Mail[]): string[] =>
  cells
    .map((cell) => cell.trim())
    .filter((cell) => isAddress(cell) && !mails.some((m) => isSameAddress(m.address, cell)));

/** The messages about the rows, by their nudge. */
async function mailsOf(em: Em, lines: readonly SheetLine[]): Promise<ReadonlyMap<number, readonly Mail[]>> {
  const nudges = lines.flatMap(({ written }) => (written ? [written.nudge] : []));
  const mails = new Map(nudges.map((nudge): [number, Mail[]] => [nudge, []]));
  for (const slice of inSlices(nudges)) {
    const rows = await em.find(NudgeRow, { id: { $in: slice } }, { fields: ['reason'] });
    const reasons = new Map(rows.map((n) => [n.id, n.reason]));
    for (const m of await em.find(MessageRow, { nudge: { $in: slice } }, { orderBy: { id: 'asc' } })) {
      const reason = m.state === 'withdrawn' ? reasons.get(m.nudge!) : null;
      const why = m.trouble ?? (reason ? LOGGED_WORDS[reason] : STATE_NAMES[m.state]);
      mails.get(m.nudge!)!.push({ address: m.address, state: m.state, at: m.settledAt ?? m.sendAt, why });
    }
  }
  return mails;
}

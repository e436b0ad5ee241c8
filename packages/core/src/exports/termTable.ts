/** What became of the term, a rule a row. */
import { WITHHELD_WORDS } from '../rounds/decide/withheld.ts';
import type { TermReport } from '../term/reportData.ts';
import { number, text, type ExportCell, type ExportTable } from './table.ts';

export function termTable(
  course: { readonly code: string; readonly timeZone: string },
  { rules }: Pick<TermReport, 'rules'>,
): ExportTable {
  return {
    name: `${course.code} how the term went`,
    zone: course.timeZone,
    columns: [
      text('Rule'),
      ...['Checks', 'Nudges sent', 'Students reached', 'Came back', 'Of', 'Replied', 'Of those sent'].map(number),
      ...[text('Held back by'), number('Students held back'), number('Of these never nudged')],
      ...['Found with the outcome', 'Missed', 'Found without it', 'Left alone'].map(number),
    ],
    rows: rules.map((r): ExportCell[] => {
      const { result, hindsight } = r;
      const [worst] = r.heldBack;
      const counts = hindsight?.counts;
      return [
        ...[r.name, r.rounds, result.sent, r.reached, result.returns?.count ?? null, result.returns?.of ?? null],
        ...[result.replies.count, result.replies.of],
        ...[worst ? WITHHELD_WORDS[worst.reason] : null, worst?.students ?? null, worst?.neverNudged ?? null],
        ...[counts?.found ?? null, counts?.missed ?? null, counts?.needless ?? null, counts?.leftAlone ?? null],
      ];
    }),
  };
}

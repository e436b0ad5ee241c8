/** Two terms side by side, a rule a row. */
import type { TermsAnswer } from '../exchange/terms.ts';
import type { ReportedRule } from '../terms/compare.ts';
import { number, text, type ExportCell, type ExportTable } from './table.ts';

export function termsTable(zone: string, { here, other, pairs, alone }: TermsAnswer): ExportTable {
  const side = (code: string) => [
    ...['nudges sent', 'students reached', 'came back', 'of', 'replied', 'of those sent'].map((name) =>
      number(`${code}: ${name}`),
    ),
    ...['found with the outcome', 'missed', 'found without it', 'first reached on day'].map((name) =>
      number(`${code}: ${name}`),
    ),
  ];
  const cells = (r: ReportedRule | null): ExportCell[] =>
    r === null
      ? Array.from({ length: 10 }, () => null)
      : [
          ...[r.result.sent, r.reached, r.result.returns?.count ?? null, r.result.returns?.of ?? null],
          ...[r.result.replies.count, r.result.replies.of],
          ...[
            r.hindsight?.counts.found ?? null,
            r.hindsight?.counts.missed ?? null,
            r.hindsight?.counts.needless ?? null,
          ],
          r.firstDay,
        ];
  const rows = [
    ...pairs.map((p) => ({ ...p, differs: p.differences.map((d) => `${d.part}: ${d.here} / ${d.other}`).join('; ') })),
    ...alone.here.map((r) => ({ here: r, other: null, differs: '' })),
    ...alone.other.map((r) => ({ here: null, other: r, differs: '' })),
  ];
  return {
    name: `${here.code} beside ${other.code}`,
    zone,
    columns: [
      text(`${here.code}: rule`),
      text(`${other.code}: rule`),
      ...side(here.code),
      ...side(other.code),
      text('What differs'),
    ],
    rows: rows.map((r): ExportCell[] => [
      r.here?.name ?? null,
      r.other?.name ?? null,
      ...cells(r.here),
      ...cells(r.other),
      r.differs || null,
    ]),
  };
}

/** Which of the first rows of a table is the header: shown with the rows around it, and chosen by one press. */
import { useId, useState } from 'react';
import type { ImportDecisions, ImportPreview } from '@zest-bell/core/imports';
import { Button } from '../../ui/Button.tsx';

interface HeaderRowsProps {
  readonly seen: ImportPreview;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}

/** What helps where nothing in a table says whom it is about. */
export const SAY_WHAT_IT_IS = 'Choose the row that names the columns, or say below which column has the names.';

/** Rows below the header that are shown with it, and cells of a row. */
const BELOW = 2;
const CELLS = 12;

export function HeaderRows({ seen, onDecide }: HeaderRowsProps) {
  const { firstRows, headerLine } = seen;
  const place = firstRows.findIndex((r) => r.line === headerLine);
  const isDoubtful = seen.doubts.includes('header');
  const needsChoice = isDoubtful || seen.trouble !== null;
  const [all, setAll] = useState(false);
  if (firstRows.length < 2) return null;
  const shown = all || needsChoice ? firstRows : firstRows.slice(0, place + 1 + BELOW);
  return (
    <section aria-label="The header" className="mt-3">
      {isDoubtful && <Doubt seen={seen} onDecide={onDecide} />}
      <details open={needsChoice || place > 0 || all}>
        <summary className="text-[14.5px]">
          <span className="font-semibold">Header:</span> {headerWords(seen)}
        </summary>
        <Rows seen={seen} rows={shown} onDecide={onDecide} />
        {shown.length < firstRows.length && (
          <Button look="quiet" onClick={() => setAll(true)}>
            Show the first {firstRows.length} rows
          </Button>
        )}
      </details>
    </section>
  );
}

const headerWords = ({ headerLine, groupsLine }: ImportPreview): string =>
  headerLine === null
    ? 'none was found'
    : `row ${headerLine}${groupsLine === null ? '' : `, and row ${groupsLine} names the groups of its items`}`;

function Doubt({ seen, onDecide }: HeaderRowsProps) {
  const filled = seen.columns.filter((c) => c.filled > 0);
  const unnamed = filled.filter((c) => c.header === '').length;
  return (
    <div role="alert" className="mb-2 rounded-xl bg-tangerine-soft px-4 py-2.5 text-tangerine-text">
      <p>
        ▲ Is row {seen.headerLine} the header?{' '}
        {unnamed > 0
          ? `${unnamed} of ${filled.length} columns have no name in it.`
          : 'No column in it is called an id or an address, and one of them holds addresses.'}{' '}
        Choose the row that names the columns.
      </p>
      <Button className="mt-2" onClick={() => onDecide({ isSure: true })}>
        Row {seen.headerLine} is right
      </Button>
    </div>
  );
}

function Rows({ seen, rows, onDecide }: HeaderRowsProps & { readonly rows: ImportPreview['firstRows'] }) {
  const name = useId();
  const wide = Math.min(CELLS, Math.max(...rows.map((r) => r.cells.length)));
  return (
    <div role="radiogroup" aria-label="Which row is the header" className="mt-1 max-h-60 overflow-auto">
      <table className="text-left text-[13.5px]">
        <tbody>
          {rows.map(({ line, cells }) => {
            const isHeader = line === seen.headerLine;
            return (
              <tr key={line} className={isHeader ? 'bg-zest-soft font-semibold' : 'hover:bg-fog'}>
                <td className="border-b border-line py-0.5 pr-3 pl-2">
                  <label className="flex items-center gap-2 whitespace-nowrap">
                    <input
                      type="radio"
                      name={name}
                      checked={isHeader}
                      aria-label={`Row ${line}: ${cells.filter(Boolean).join(', ').slice(0, 80)}`}
                      onChange={() => onDecide({ header: line, isSure: undefined, told: {}, mended: {}, outOf: {} })}
                    />
                    <span className="font-num text-[12px] font-normal text-ink-3">row {line}</span>
                  </label>
                </td>
                {/* A title is longer than the columns under it. */}
                {cells.length === 1 ? (
                  <td colSpan={wide} className="border-b border-line py-0.5 pr-4">
                    {cells[0]}
                  </td>
                ) : (
                  Array.from({ length: wide }, (_, i) => (
                    <td key={i} className="max-w-40 truncate border-b border-line py-0.5 pr-4">
                      {cells[i] ?? ''}
                    </td>
                  ))
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

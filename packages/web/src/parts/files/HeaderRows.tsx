/** Shows which of the first rows is the header, and lets the user choose another with one press. */
import { useEffect, useId, useRef } from 'react';
import { unnamedColumns, type ImportDecisions, type ImportPreview } from '@zest-bell/core/imports';
import { Button } from '../../ui/Button.tsx';

interface HeaderRowsProps {
  readonly seen: ImportPreview;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}

/** Follows the reason why a table cannot be read. */
export const SAY_WHAT_IT_IS = 'If another row names the columns, choose it. Otherwise say below what each column is.';

/** Cells of a row that are shown. */
const CELLS = 12;

export function HeaderRows({ seen, onDecide }: HeaderRowsProps) {
  const { firstRows, headerLine } = seen;
  if (firstRows.length < 2) return null;
  return (
    <section aria-label="The header" className="mt-3">
      {seen.doubts.includes('header') && <Doubt seen={seen} onDecide={onDecide} />}
      <p className="text-[14.5px]">
        <span className="font-semibold">Header:</span> {headerWords(headerLine, seen.groupsLine)}
      </p>
      <Rows key={headerLine} seen={seen} onDecide={onDecide} />
    </section>
  );
}

const headerWords = (header: number | null, groups: number | null): string =>
  header === null
    ? 'none was found'
    : `row ${header}${groups === null ? '' : `, and row ${groups} names the groups of its items`}`;

function Doubt({ seen, onDecide }: HeaderRowsProps) {
  const { filled, unnamed, areTooMany } = unnamedColumns(seen.columns);
  return (
    <div role="alert" className="mb-2 rounded-xl bg-tangerine-soft px-4 py-2.5 text-tangerine-text">
      <p>
        ▲ Is row {seen.headerLine} the header?{' '}
        {areTooMany
          ? `${unnamed} of ${filled} columns have no name in it.`
          : 'No column in it is called an id or an address, and one of them holds addresses.'}{' '}
        Choose the row that names the columns.
      </p>
      <Button className="mt-2" onClick={() => onDecide({ isSure: true })}>
        Row {seen.headerLine} is right
      </Button>
    </div>
  );
}

/** All of the first rows, scrolled so that the header is in view. */
function Rows({ seen, onDecide }: HeaderRowsProps) {
  const { firstRows: rows } = seen;
  const name = useId();
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const header = box.current?.querySelector<HTMLElement>('tr[data-header]');
    if (header) box.current!.scrollTop = header.offsetTop - box.current!.clientHeight / 2;
  }, []);
  const wide = Math.min(CELLS, Math.max(...rows.map((r) => r.cells.length)));
  return (
    <div
      ref={box}
      role="radiogroup"
      aria-label="Which row is the header"
      className="relative mt-1 max-h-[148px] overflow-auto rounded-lg border border-line"
    >
      <table className="min-w-full text-left text-[13.5px]">
        <tbody>
          {rows.map(({ line, cells }) => {
            const isHeader = line === seen.headerLine;
            return (
              <tr
                key={line}
                data-header={isHeader || undefined}
                className={isHeader ? 'bg-zest-soft font-semibold' : 'hover:bg-fog'}
              >
                <td className="border-b border-line py-0.5 pr-3 pl-2">
                  <label className="flex items-center gap-2 whitespace-nowrap">
                    <input
                      type="radio"
                      name={name}
                      checked={isHeader}
                      aria-label={`Row ${line}: ${cells.filter(Boolean).join(', ').slice(0, 80)}`}
                      onChange={() => onDecide({ header: line, isSure: undefined, told: {}, mended: {}, outOf: {} })}
                    />
                    <span className="font-num text-[12px] font-normal text-ink-2">row {line}</span>
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

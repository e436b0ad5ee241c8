/** A small table of figures: each row begins with what it is about. */
import type { ReactNode } from 'react';

export interface PlainColumn {
  readonly name: string;
  /** Numbers stand on the right. */
  readonly right?: boolean;
}

export interface PlainRow {
  readonly key: string;
  readonly head: ReactNode;
  readonly cells: readonly ReactNode[];
}

export function PlainTable(props: {
  readonly label?: string;
  /** The first names what the rows are about; hidden where it goes without saying. */
  readonly columns: readonly PlainColumn[];
  readonly hideFirst?: boolean;
  readonly rows: readonly PlainRow[];
}) {
  const { label, columns, hideFirst = false, rows } = props;
  return (
    <div
      role="group"
      aria-label={`${label ?? 'Table'}: may scroll sideways`}
      tabIndex={0}
      className="relative overflow-x-auto"
    >
      <table aria-label={label} className="mt-1 w-full text-[14.5px]">
        <thead>
          <tr className="text-left text-[13px] text-ink-2">
            {columns.map(({ name, right }, i) => (
              <th key={name} scope="col" className={`py-1 pr-4 font-semibold last:pr-0 ${right ? 'text-right' : ''}`}>
                {i === 0 && hideFirst ? <span className="sr-only">{name}</span> : name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.key} className="border-t border-line">
              <th scope="row" className="max-w-72 truncate py-1 pr-4 text-left font-semibold">
                {row.head}
              </th>
              {row.cells.map((cell, i) => (
                <td
                  key={columns[i + 1]!.name}
                  className={`py-1 pr-4 last:pr-0 ${columns[i + 1]!.right ? 'text-right tabular-nums' : ''}`}
                >
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

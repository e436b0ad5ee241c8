/** How each column of a file is read, with rows as they stand in it and as they will be read. */
import { FIELDS, isTableKind, type ImportDecisions, type ImportPreview } from '@zest-bell/core';
import { FIELD_WORDS } from './kindWords.ts';

const KEEP = '';

export function Columns(props: {
  readonly seen: ImportPreview;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}) {
  const { seen } = props;
  const kind = seen.kind && isTableKind(seen.kind) ? seen.kind : null;
  const tell = (header: string, field: string) => props.onDecide({ told: { ...seen.decisions.told, [header]: field } });
  const kept =
    kind === 'roster' || kind === 'columns'
      ? 'Your own column'
      : kind === 'gradebook' || kind === 'attendance'
        ? 'An item'
        : 'Left out';
  return (
    <div className="mt-3 overflow-x-auto" tabIndex={0} role="region" aria-label="Columns of the file">
      <table className="text-left text-[13.5px]">
        <thead>
          <tr className="align-bottom">
            {seen.columns.map((c) => (
              <th key={c.header} className="max-w-56 border-b border-line-strong pr-4 pb-1.5">
                <span className="block truncate" title={c.header}>
                  {c.header || '(no name)'}
                </span>
                {kind && (
                  <select
                    aria-label={`How to read ${c.header}`}
                    className="field mt-1 min-h-8 py-0.5 text-[13px] font-normal"
                    value={c.field ?? KEEP}
                    onChange={(e) => tell(c.header, e.target.value)}
                  >
                    <option value={KEEP}>{kept}</option>
                    {c.field !== null && !FIELDS[kind].includes(c.field) && <option value={c.field}>{c.field}</option>}
                    {FIELDS[kind].map((field) => (
                      <option key={field} value={field}>
                        {FIELD_WORDS[field] ?? field}
                      </option>
                    ))}
                  </select>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {seen.sample.map((cells, i) => (
            <tr key={i} className="align-top">
              {cells.map((cell, n) => (
                <td key={n} className="max-w-56 border-b border-line py-1 pr-4">
                  <span className="block truncate" title={cell.said}>
                    {cell.read || <span className="text-ink-3">–</span>}
                  </span>
                  {cell.read !== cell.said && cell.said !== '' && (
                    <span className="block truncate text-[12.5px] text-ink-3">from “{cell.said}”</span>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

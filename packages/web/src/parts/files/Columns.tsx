/** A sheet as it will be read: its first rows, with the choices as headers, in groups that fold. */
import { useState, type ReactNode } from 'react';
import {
  FIELDS,
  isTableKind,
  PEOPLE_FIELDS,
  TOLD_MEANINGS,
  type ImportDecisions,
  type ImportPreview,
  type ItemChoice,
  type Question,
} from '@zest-bell/core/imports';
import { ChevronDown, ChevronRight } from 'lucide-react';
import type { CourseHere } from '../../lib/here.ts';
import { Check } from '../../ui/fields.tsx';
import { fromLocal, toLocal } from '../../ui/instants.ts';
import { FIELD_WORDS, TOLD_WORDS } from './kindWords.ts';
import { DayOrderQuestion, ItemQuestion, OutOfQuestion, OverQuestion } from './Questions.tsx';
import { GROUP_NAMES, groupsOf, groupWords, type ColumnGroup, type SheetColumn } from './sheetGroups.ts';

export interface ColumnsProps {
  /** Null where the course is yet to be made. */
  readonly here: Pick<CourseHere, 'course'>;
  readonly seen: ImportPreview;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}

export function Columns(props: ColumnsProps) {
  const { seen } = props;
  const [folded, setFolded] = useState<ReadonlySet<ColumnGroup>>(new Set(['leftOut']));
  if (seen.columns.some((c) => c.as === 'fact')) return <FactColumns {...props} />;
  // A table that cannot be read yet has no groups; the user says what each column is.
  if (seen.trouble !== null)
    return (
      <div className="mt-3">
        <SheetTable {...props} columns={seen.columns.map((column, place) => ({ ...column, place }))} still={null} />
      </div>
    );
  const groups = groupsOf(seen);
  const fold = (group: ColumnGroup) => {
    const next = new Set(folded);
    if (!next.delete(group)) next.add(group);
    setFolded(next);
  };
  const shown = groups.flatMap(({ group, columns }) => (folded.has(group) ? [] : columns));
  // Names stay where they are while a wide sheet scrolls.
  const still = shown.find((c) => c.field === 'name' || c.field === 'lastName')?.place;
  const columns = [...shown.filter((c) => c.place === still), ...shown.filter((c) => c.place !== still)];
  return (
    <div className="mt-3 grid gap-2">
      <ul className="grid gap-1" aria-label="What the columns are">
        {groups.map(({ group, columns: own }) => (
          <li key={group} className="flex flex-wrap items-baseline gap-x-3 gap-y-0.5 text-[14.5px]">
            <button
              type="button"
              aria-expanded={!folded.has(group)}
              onClick={() => fold(group)}
              className="inline-flex items-center gap-1 rounded font-semibold hover:underline"
            >
              {folded.has(group) ? <ChevronRight size={15} aria-hidden /> : <ChevronDown size={15} aria-hidden />}
              {GROUP_NAMES[group]}
            </button>
            <span className="min-w-0 flex-1 basis-72 text-ink-2">{groupWords(seen, group, own)}</span>
            <Offer {...props} group={group} columns={own} />
            {group === 'grade' && <OutOf {...props} columns={own} />}
          </li>
        ))}
      </ul>
      <SheetTable {...props} columns={columns} still={still ?? null} />
    </div>
  );
}

/** Column groups that can add items. */
const MAKES_ITEMS: ReadonlySet<ColumnGroup> = new Set<ColumnGroup>(['grade', 'attendance', 'doneOn']);

/** A yes to adding what the course lacks, and from when ages count. */
function Offer({
  here,
  seen,
  onDecide,
  group,
  columns,
}: ColumnsProps & { readonly group: ColumnGroup; readonly columns: readonly SheetColumn[] }) {
  if (group === 'person' && seen.kind !== 'roster' && seen.added.people + seen.offered.people > 0)
    return (
      <Check
        label="Add them to the course"
        checked={seen.add.people}
        onChange={(people) => onDecide({ add: { ...seen.decisions.add, people } })}
      />
    );
  if (MAKES_ITEMS.has(group) && columns.some((c) => c.isNew) && seen.kind !== 'roster')
    return (
      <Check
        label={group === 'attendance' ? 'Add the new sessions' : 'Add the new items'}
        checked={seen.add.items}
        onChange={(items) => onDecide({ add: { ...seen.decisions.add, items } })}
      />
    );
  if (group !== 'lastSeen' || seen.agesFrom === null) return null;
  const zone = here.course.timeZone;
  return (
    <label className="flex items-center gap-2 text-[14px]">
      Ages count back from
      <input
        type="datetime-local"
        className="field min-h-8 py-0.5"
        defaultValue={toLocal(seen.agesFrom, zone)}
        onBlur={(e) => {
          const asOf = fromLocal(e.target.value, zone);
          if (asOf !== null && asOf !== seen.agesFrom) onDecide({ asOf });
        }}
      />
    </label>
  );
}

/** Asks once per item for points possible that the sheet does not have ([F24]). */
function OutOf({ seen, onDecide, columns }: ColumnsProps & { readonly columns: readonly SheetColumn[] }) {
  const told = seen.decisions.outOf ?? {};
  const asked = columns.filter((c) => c.asksPoints || Object.hasOwn(told, c.header));
  if (asked.length === 0) return null;
  const answer = (header: string, points: number | null) => {
    const { [header]: _before, ...others } = told;
    onDecide({ outOf: points === null ? others : { ...others, [header]: points } });
  };
  return (
    <ul className="flex basis-full flex-wrap gap-x-5 gap-y-1 pl-5">
      {asked.map((c) => (
        <li key={c.header}>
          <OutOfQuestion item={c.item!} points={told[c.header]} onAnswer={(points) => answer(c.header, points)} />
        </li>
      ))}
    </ul>
  );
}

function SheetTable(props: ColumnsProps & { readonly columns: readonly SheetColumn[]; readonly still: number | null }) {
  return (
    <SampleTable
      {...props}
      isLeftOut={(c) => c.as === 'leftOut'}
      header={(c) => <ColumnHeader {...props} column={c} />}
    />
  );
}

/** The first rows of a file, called by the rows of the sheet; one column may hold still while the others scroll. */
function SampleTable({
  seen,
  columns,
  still = null,
  isLeftOut,
  header,
}: {
  readonly seen: ImportPreview;
  readonly columns: readonly SheetColumn[];
  readonly still?: number | null;
  readonly isLeftOut: (column: SheetColumn) => boolean;
  readonly header: (column: SheetColumn) => ReactNode;
}) {
  const held = (place: number) => (place === still ? 'sticky left-0 z-10 bg-sheet' : '');
  return (
    <div
      className="overflow-x-auto rounded-xl border border-line"
      tabIndex={0}
      role="region"
      aria-label="Columns of the file"
    >
      <table className="text-left text-[13.5px]">
        <thead>
          <tr className="align-top">
            <th className="border-b border-line-strong px-3 py-1.5 font-num text-[12px] font-normal text-ink-3">row</th>
            {columns.map((c) => (
              <th key={c.place} className={`border-b border-line-strong py-1.5 pr-4 ${held(c.place)}`}>
                {header(c)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {seen.sample.map(({ line, cells }) => (
            <tr key={line} className="align-top">
              <td className="border-b border-line px-3 py-1 font-num text-[12px] text-ink-3">{line}</td>
              {columns.map((c) => (
                <td key={c.place} className={`max-w-44 border-b border-line py-1 pr-4 ${held(c.place)}`}>
                  <CellWords {...cells[c.place]!} isLeftOut={isLeftOut(c)} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** As it will be read; the original is shown below where it differs. */
function CellWords({
  said,
  read,
  refused = false,
  isLeftOut,
}: {
  readonly said: string;
  readonly read: string;
  readonly refused?: boolean;
  readonly isLeftOut: boolean;
}) {
  if (said === '') return <span className="text-ink-3">–</span>;
  if (isLeftOut) return <span className="block truncate text-ink-3">{said}</span>;
  if (refused)
    return (
      <span className="block truncate text-tangerine-text" title={read}>
        ▲ {said}
      </span>
    );
  return (
    <>
      <span className="block truncate" title={said}>
        {read === '' ? <span className="text-ink-3">nothing</span> : read}
      </span>
      {read !== said && <span className="block truncate text-[12.5px] text-ink-3">{said}</span>}
    </>
  );
}

/** The name of a column, what it is, and what is asked about it. */
function ColumnHeader({ here, seen, onDecide, column: c }: ColumnsProps & { readonly column: SheetColumn }) {
  const tell = (as: string) => onDecide({ told: { ...seen.decisions.told, [c.header]: as } });
  const asked = seen.questions.filter((q) => isAbout(q, c));
  const value = c.as === 'field' ? c.field! : c.as;
  return (
    <div className="grid w-44 gap-1 font-normal">
      <span className="block truncate font-bold" title={c.header}>
        {c.header || '(no name)'}
      </span>
      {c.header !== '' && (
        <select
          aria-label={`How to read ${c.header}`}
          className="field min-h-8 w-full min-w-0 py-0.5 text-[13px]"
          value={value === 'person' ? 'id' : value}
          onChange={(e) => tell(e.target.value)}
        >
          <optgroup label="Of the person">
            {c.field !== null && !PEOPLE_FIELDS.includes(c.field) && <option value={c.field}>{c.field}</option>}
            {PEOPLE_FIELDS.map((field) => (
              <option key={field} value={field}>
                {FIELD_WORDS[field] ?? field}
              </option>
            ))}
          </optgroup>
          <optgroup label="Of something else">
            {TOLD_MEANINGS.map((as) => (
              <option key={as} value={as}>
                {TOLD_WORDS[as]}
              </option>
            ))}
          </optgroup>
        </select>
      )}
      {c.item !== null && !asked.some((q) => q.about === 'item') && (
        <span className="block truncate text-[12.5px] text-ink-2">
          {c.isNew ? 'new: ' : ''}
          {c.item}
          {c.points !== null && `, of ${c.points}`}
        </span>
      )}
      {asked.map((q) =>
        q.about === 'item' ? (
          <ItemQuestion
            key={q.said}
            question={q}
            items={here.course.items}
            onChoose={(choice: ItemChoice) =>
              onDecide({
                choices: { ...seen.decisions.choices, items: { ...seen.decisions.choices?.items, [q.said]: choice } },
              })
            }
          />
        ) : q.about === 'dayOrder' ? (
          <DayOrderQuestion
            key={q.column}
            question={q}
            onChoose={(order) => onDecide({ dayOrders: { ...seen.decisions.dayOrders, [q.column]: order } })}
          />
        ) : q.about === 'over' ? (
          <OverQuestion
            key={q.item}
            question={q}
            onChoose={(over) =>
              onDecide({
                choices: { ...seen.decisions.choices, over: { ...seen.decisions.choices?.over, [q.item]: over } },
              })
            }
          />
        ) : null,
      )}
    </div>
  );
}

const isAbout = (q: Question, c: SheetColumn): boolean =>
  q.about === 'dayOrder'
    ? q.column === c.header
    : q.about === 'item'
      ? q.said === c.header
      : q.about === 'over' && q.said === c.item;

/** A table of one row a fact: each header is a field, or is left out. */
function FactColumns({ seen, onDecide }: ColumnsProps) {
  const kind = seen.kind && isTableKind(seen.kind) ? seen.kind : null;
  return (
    <div className="mt-3">
      <SampleTable
        seen={seen}
        columns={seen.columns.map((column, place) => ({ ...column, place }))}
        isLeftOut={(c) => c.field === null}
        header={(c) => (
          <div className="w-44 font-normal">
            <span className="block truncate font-bold" title={c.header}>
              {c.header || '(no name)'}
            </span>
            {kind && (
              <select
                aria-label={`How to read ${c.header}`}
                className="field mt-1 min-h-8 w-full min-w-0 py-0.5 text-[13px]"
                value={c.field ?? ''}
                onChange={(e) => onDecide({ told: { ...seen.decisions.told, [c.header]: e.target.value } })}
              >
                <option value="">Left out</option>
                {FIELDS[kind].map((field) => (
                  <option key={field} value={field}>
                    {FIELD_WORDS[field] ?? field}
                  </option>
                ))}
              </select>
            )}
          </div>
        )}
      />
    </div>
  );
}

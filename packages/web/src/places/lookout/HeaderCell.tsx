/** The header of a column: its title sorts, its bars are brushed, its menu has the rest. */
import { useState } from 'react';
import { Link } from 'react-router';
import { DropdownMenu } from 'radix-ui';
import { EllipsisVertical } from 'lucide-react';
import type { MeasureUnit } from '@zest-bell/core/measures';
import {
  columnKey,
  columnTitle,
  measureColumnOf,
  SORT_BY_RULES,
  unitOf,
  type Brush,
  type Distribution,
  type LookoutColumn,
  type LookoutView,
  type RuleNames,
  type SortBy,
} from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { menuItem } from '../../ui/menu.ts';
import { brushOn, withBrushOn } from './brushes.ts';
import { ColumnDialog, hasFields } from './ColumnDialog.tsx';
import { HeaderBrush } from './HeaderBrush.tsx';
import { RuleHeader } from './RuleHeader.tsx';

const SUFFIX: Readonly<Record<MeasureUnit, string>> = {
  days: ' d',
  hours: ' h',
  percent: '%',
  points: '',
  count: '',
  yesNo: '',
  text: '',
};

/** What the numbers below count, once for all of them. */
const UNIT_WORDS: Readonly<Record<MeasureUnit, string>> = {
  days: 'days',
  hours: 'hours',
  percent: '%',
  points: '',
  count: '',
  yesNo: '',
  text: '',
};

interface HeaderProps {
  readonly here: CourseHere;
  readonly view: LookoutView;
  readonly onChange: (part: Partial<LookoutView>) => void;
  readonly column: LookoutColumn;
  readonly index: number;
  readonly distribution: Distribution;
  readonly within: readonly number[] | undefined;
  readonly names: RuleNames;
}

export function HeaderCell(props: HeaderProps) {
  const { here, view, column, index, onChange } = props;
  const [changing, setChanging] = useState(false);
  const key = columnKey(column);
  const title = columnTitle(column, here.course, props.names);
  const words = UNIT_WORDS[unitOf(column)];
  const unit = title.toLowerCase().includes(words) ? '' : words;
  const place = view.sort.findIndex((s) => s.by === key);
  const sorted = view.sort[place];
  const brush = brushOn(view, column, here.course.marks);
  const setBrush = (next: Brush | null) => onChange(withBrushOn(view, column, next));
  const sortBy = (deeper: boolean) => onChange({ sort: sortedBy(view.sort, key, deeper) });
  const move = (by: number) => {
    const columns = [...view.columns];
    const [own] = columns.splice(index, 1);
    columns.splice(index + by, 0, own!);
    onChange({ columns });
  };
  const Brushed = column.kind === 'rule' ? RuleHeader : HeaderBrush;
  return (
    <div
      role="columnheader"
      aria-sort={sorted ? (sorted.down ? 'descending' : 'ascending') : 'none'}
      className="min-w-0 px-3 pt-1 pb-0"
    >
      <div className="flex items-start gap-1">
        <button
          type="button"
          title={`${title}. Press to sort; with Shift, sort by this as well.`}
          className="flex h-8 min-w-0 flex-1 items-start text-left text-[13px] leading-4 font-bold hover:text-pine"
          onClick={(e) => sortBy(e.shiftKey)}
        >
          <span className="line-clamp-2">
            {title.charAt(0).toUpperCase() + title.slice(1)}
            {unit !== '' && <span className="font-normal text-ink-3">, {unit}</span>}
          </span>
          {sorted && (
            <span aria-hidden>
              {' '}
              {sorted.down ? '↓' : '↑'}
              {view.sort.length > 1 && <sub>{place + 1}</sub>}
            </span>
          )}
        </button>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            aria-label={`${title}: more`}
            className="-mr-1.5 grid size-6 flex-none place-items-center rounded hover:bg-fog"
          >
            <EllipsisVertical size={15} aria-hidden />
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" sideOffset={4} className="pop z-50 p-1.5">
              <DropdownMenu.Item className={menuItem} onSelect={() => onChange({ sort: [{ by: key, down: false }] })}>
                Sort low to high
              </DropdownMenu.Item>
              <DropdownMenu.Item className={menuItem} onSelect={() => onChange({ sort: [{ by: key, down: true }] })}>
                Sort high to low
              </DropdownMenu.Item>
              <DropdownMenu.Item className={menuItem} onSelect={() => sortBy(true)}>
                Then sort by this
              </DropdownMenu.Item>
              {column.kind === 'rule' && (
                <>
                  <DropdownMenu.Item
                    className={menuItem}
                    onSelect={() => onChange({ sort: [{ by: SORT_BY_RULES, down: true }] })}
                  >
                    Sort by how many rules match
                  </DropdownMenu.Item>
                  <DropdownMenu.Item className={menuItem} asChild>
                    <Link to={`/c/${here.id}/rules/${column.rule}`}>Open the rule</Link>
                  </DropdownMenu.Item>
                </>
              )}
              {column.kind === 'measure' && hasFields(column.call) && (
                <DropdownMenu.Item className={menuItem} onSelect={() => setChanging(true)}>
                  Change what it shows …
                </DropdownMenu.Item>
              )}
              <DropdownMenu.Item className={menuItem} disabled={index === 0} onSelect={() => move(-1)}>
                Move left
              </DropdownMenu.Item>
              <DropdownMenu.Item
                className={menuItem}
                disabled={index === view.columns.length - 1}
                onSelect={() => move(1)}
              >
                Move right
              </DropdownMenu.Item>
              {brush && (
                <DropdownMenu.Item className={menuItem} onSelect={() => setBrush(null)}>
                  Clear the brush
                </DropdownMenu.Item>
              )}
              <DropdownMenu.Item
                className={menuItem}
                onSelect={() =>
                  onChange({
                    columns: view.columns.filter((c) => columnKey(c) !== key),
                    sort: view.sort.filter((s) => s.by !== key),
                  })
                }
              >
                Remove this column
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
      <Brushed
        title={title}
        distribution={props.distribution}
        within={props.within}
        brush={brush}
        unit={SUFFIX[unitOf(column)]}
        onBrush={setBrush}
      />
      {changing && column.kind === 'measure' && (
        <ColumnDialog
          here={here}
          call={column.call}
          onClose={() => setChanging(false)}
          onSave={(call) => {
            setChanging(false);
            onChange({
              columns: view.columns.map((c) => (columnKey(c) === key ? measureColumnOf(call) : c)),
              sort: view.sort.filter((s) => s.by !== key),
            });
          }}
        />
      )}
    </div>
  );
}

/** Another column in place of the order, or the next one within it; a second press turns it round. */
function sortedBy(sort: readonly SortBy[], by: string, deeper: boolean): SortBy[] {
  const place = sort.findIndex((s) => s.by === by);
  const next = { by, down: place < 0 ? true : !sort[place]!.down };
  if (!deeper) return [next];
  return place < 0 ? [...sort, next].slice(0, 8) : sort.map((s, i) => (i === place ? next : s));
}

/** Of which items, and over what time, a measure is taken. */
import { dayWords, LAST_DAYS_RANGE, plural } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { CATALOGUE, itemOf, mayBeLeftOut } from '@zest-bell/core/measures';
import type { Leaf } from '@zest-bell/core/conditions';
import { Check, DateField, NumberField, SelectField } from '../../ui/fields.tsx';

export interface LeafProps {
  readonly leaf: Leaf;
  readonly course: Course;
  readonly onChange: (leaf: Leaf, tag?: string) => void;
}

const isOptional = (leaf: Leaf, parameter: string): boolean => mayBeLeftOut(CATALOGUE[leaf.measure], parameter);

export function ItemSelect({ leaf, course, onChange }: LeafProps) {
  const groups = new Map<string, Course['items'][number][]>();
  for (const item of course.items) {
    const name = item.group ?? 'Other';
    groups.set(name, [...(groups.get(name) ?? []), item]);
  }
  return (
    <SelectField
      label="of"
      value={leaf.item ?? ''}
      onChange={(e) => {
        const { item: _i, ...rest } = leaf;
        if (e.target.value === '') return onChange(rest);
        // Of an item or of a group, never of both.
        const { group: _g, ...ungrouped } = rest;
        onChange({ ...ungrouped, item: e.target.value });
      }}
    >
      {isOptional(leaf, 'item') && <option value="">the course as a whole</option>}
      {leaf.item !== undefined && !course.itemIndex.has(leaf.item) && (
        <option value={leaf.item}>{itemOf(course, leaf).title}</option>
      )}
      {[...groups].map(([name, items]) => (
        <optgroup key={name} label={name}>
          {items.map((i) => (
            <option key={i.id} value={i.id}>
              {i.title}
              {i.dueAt === null ? '' : ` · due ${dayWords(i.dueAt, course.timeZone)}`}
            </option>
          ))}
        </optgroup>
      ))}
    </SelectField>
  );
}

export function GroupSelect({ leaf, course, onChange }: LeafProps) {
  const groups = [...new Set(course.items.map((i) => i.group).filter((g) => g !== null))];
  return (
    <SelectField
      label="among"
      value={leaf.group ?? ''}
      onChange={(e) => {
        const { group: _g, items: _i, ...rest } = leaf;
        if (e.target.value === '') return onChange(rest);
        const { item: _item, ...unnamed } = rest;
        onChange({ ...unnamed, group: e.target.value });
      }}
    >
      {isOptional(leaf, 'group') && <option value="">all of the course</option>}
      {groups.map((g) => (
        <option key={g} value={g}>
          {g}
        </option>
      ))}
    </SelectField>
  );
}

/** Some items by their titles, in place of a group. */
export function ItemsSelect({ leaf, course, onChange }: LeafProps) {
  const chosen = leaf.items ?? [];
  const change = (items: readonly string[]) => {
    const { group: _g, item: _i, items: _items, ...rest } = leaf;
    onChange(items.length === 0 ? rest : { ...rest, items });
  };
  return (
    <details open={chosen.length > 0}>
      <summary className="text-[14px] font-semibold text-pine">
        {chosen.length === 0 ? 'Or choose items' : `${plural(chosen.length, 'item')} chosen`}
      </summary>
      <ul className="mt-1 max-h-48 overflow-auto rounded-lg border border-line px-3 py-1.5">
        {course.items.map((i) => (
          <li key={i.id}>
            <Check
              label={i.title}
              checked={chosen.includes(i.id)}
              onChange={(on) => change(on ? [...chosen, i.id] : chosen.filter((id) => id !== i.id))}
            />
          </li>
        ))}
      </ul>
    </details>
  );
}

export function WindowSelect({ leaf, course, onChange }: LeafProps) {
  const w = leaf.window;
  const kind = !w ? 'ever' : 'this' in w ? 'week' : 'last' in w ? 'last' : 'since';
  return (
    <div className="flex flex-wrap gap-3">
      <SelectField
        label="counted"
        value={kind}
        onChange={(e) => {
          const { window: _w, ...rest } = leaf;
          if (e.target.value === 'week') onChange({ ...rest, window: { this: 'week' } });
          else if (e.target.value === 'last') onChange({ ...rest, window: { last: { days: 7 } } });
          else if (e.target.value === 'since') onChange({ ...rest, window: { since: course.start } });
          else onChange(rest);
        }}
      >
        <option value="ever">in the whole term</option>
        <option value="week">this week, from Monday</option>
        <option value="last">in the last days</option>
        <option value="since">since a date</option>
      </SelectField>
      {w && 'last' in w && (
        <NumberField
          label="how many"
          {...LAST_DAYS_RANGE}
          unit="days"
          value={w.last.days}
          onChange={(days) => days !== null && onChange({ ...leaf, window: { last: { days } } }, 'window')}
        />
      )}
      {w && 'since' in w && (
        <DateField
          label="from"
          value={w.since}
          min={course.start}
          max={course.end}
          onChange={(since) => onChange({ ...leaf, window: { since } })}
        />
      )}
    </div>
  );
}

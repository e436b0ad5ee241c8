/** One condition: what is measured, of which item, and compared with what. */
import {
  CATALOGUE,
  comparatorsFor,
  dateWords,
  dayWords,
  leafClause,
  mayBeLeftOut,
  MEASURE_NAMES,
  type Comparator,
  type Course,
  type Instant,
  type Leaf,
  type MeasureFamily,
  type MeasureName,
} from '@zest-bell/core';
import { Button } from '../../ui/Button.tsx';
import { NumberField, SelectField, TextField } from '../../ui/fields.tsx';
import { columnsOf, defaultLeaf } from '../defaults.ts';
import { Part } from './Part.tsx';

const FAMILIES: Readonly<Record<MeasureFamily, string>> = {
  away: 'Away',
  content: 'Content',
  work: 'Work',
  grades: 'Grades',
  discussion: 'Discussion',
  attendance: 'Attendance',
  columns: 'Your own columns',
};

const COMPARISONS: Readonly<Record<Comparator, string>> = {
  '>=': 'or more',
  '<=': 'or less',
  '>': 'over',
  '<': 'under',
  equals: 'exactly',
  differs: 'anything but',
  contains: 'contains',
  empty: 'nothing yet',
  filled: 'any value',
};

const UNITS = { days: 'days', hours: 'hours', percent: '%', points: 'points', count: '', yesNo: '', text: '' } as const;

export interface ConditionPartProps {
  readonly leaf: Leaf;
  readonly course: Course;
  readonly now: Instant;
  readonly onChange: (leaf: Leaf, tag?: string) => void;
  readonly onRemove: (() => void) | null;
  readonly onOpen: () => void;
}

export function ConditionPart({ leaf, course, now, onChange, onRemove, onOpen }: ConditionPartProps) {
  const measure = CATALOGUE[leaf.measure];
  return (
    <Part words={leafClause(leaf, course).marked} label="Condition" onOpen={onOpen} wide>
      <SelectField
        label="What to look at"
        value={leaf.measure}
        onChange={(e) => onChange(keepItem(defaultLeaf(e.target.value as MeasureName, course, now), leaf))}
      >
        {Object.entries(FAMILIES).map(([family, title]) => (
          <optgroup key={family} label={title}>
            {MEASURE_NAMES.filter((n) => CATALOGUE[n].family === family).map((n) => (
              <option key={n} value={n}>
                {CATALOGUE[n].title}
              </option>
            ))}
          </optgroup>
        ))}
      </SelectField>
      <Parameters leaf={leaf} course={course} onChange={onChange} />
      {'item' in measure.parameters && <ItemSelect leaf={leaf} course={course} onChange={onChange} />}
      {'group' in measure.parameters && <GroupSelect leaf={leaf} course={course} onChange={onChange} />}
      {'window' in measure.parameters && <WindowSelect leaf={leaf} onChange={onChange} />}
      <Comparison leaf={leaf} course={course} onChange={onChange} />
      {onRemove && (
        <Button look="quiet" className="justify-self-start" onClick={onRemove}>
          Remove this condition
        </Button>
      )}
    </Part>
  );
}

type FieldProps = Pick<ConditionPartProps, 'leaf' | 'onChange'>;

/** An item chosen before stays when the measure changes to another one of an item. */
const keepItem = (next: Leaf, before: Leaf): Leaf =>
  next.item !== undefined && before.item !== undefined ? { ...next, item: before.item } : next;

const isOptional = (leaf: Leaf, parameter: string): boolean => mayBeLeftOut(CATALOGUE[leaf.measure], parameter);

const OF_WORDS = {
  open: 'opened',
  practice: 'practised',
  submit: 'submitted',
  post: 'posted in',
  done: 'done in a row',
  missed: 'missed in a row',
} as const;

/** What a measure needs to be told beside item, group and window. */
function Parameters({ leaf, course, onChange }: FieldProps & { readonly course: Course }) {
  const { parameters } = CATALOGUE[leaf.measure];
  const choices =
    leaf.measure === 'streak' ? (['done', 'missed'] as const) : (['open', 'practice', 'submit', 'post'] as const);
  const columns = columnsOf(course);
  return (
    <>
      {'of' in parameters && (
        <SelectField
          label="which are"
          value={leaf.of}
          onChange={(e) => onChange({ ...leaf, of: e.target.value as (typeof choices)[number] })}
        >
          {choices.map((c) => (
            <option key={c} value={c}>
              {OF_WORDS[c]}
            </option>
          ))}
        </SelectField>
      )}
      {'hours' in parameters && (
        <NumberField
          label="within"
          unit="hours"
          min={1}
          max={2000}
          value={leaf.hours ?? 48}
          onChange={(hours) => hours !== null && onChange({ ...leaf, hours }, 'hours')}
        />
      )}
      {'days' in parameters && (
        <NumberField
          label="over"
          unit="days"
          whole
          min={1}
          max={120}
          value={leaf.days ?? 14}
          onChange={(days) => days !== null && onChange({ ...leaf, days }, 'days')}
        />
      )}
      {'than' in parameters && (
        <NumberField
          label="score"
          unit="%"
          min={0}
          max={1000}
          value={typeof leaf.than === 'object' ? (course.marks[leaf.than.mark] ?? 0) : (leaf.than ?? 60)}
          onChange={(than) => than !== null && onChange({ ...leaf, than }, 'than')}
        />
      )}
      {'criterion' in parameters && (
        <TextField
          label="criterion"
          value={leaf.criterion ?? ''}
          onChange={(criterion) => onChange({ ...leaf, criterion }, 'criterion')}
        />
      )}
      {'name' in parameters && columns.length > 0 && (
        <SelectField label="column" value={leaf.name} onChange={(e) => onChange({ ...leaf, name: e.target.value })}>
          {columns.map((c) => (
            <option key={c} value={c}>
              {c}
            </option>
          ))}
        </SelectField>
      )}
      {'name' in parameters && columns.length === 0 && (
        <p className="text-[13px] text-ink-2">No column has been imported into this course yet.</p>
      )}
    </>
  );
}

function ItemSelect({ leaf, course, onChange }: FieldProps & { readonly course: Course }) {
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

function GroupSelect({ leaf, course, onChange }: FieldProps & { readonly course: Course }) {
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

function WindowSelect({ leaf, onChange }: FieldProps) {
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
          else onChange(rest);
        }}
      >
        <option value="ever">in the whole term</option>
        <option value="week">this week, from Monday</option>
        <option value="last">in the last days</option>
        {w && 'since' in w && <option value="since">since {dateWords(w.since)}</option>}
      </SelectField>
      {w && 'last' in w && (
        <NumberField
          label="how many"
          whole
          min={1}
          max={120}
          unit="days"
          value={w.last.days}
          onChange={(days) => days !== null && onChange({ ...leaf, window: { last: { days } } }, 'window')}
        />
      )}
    </div>
  );
}

function Comparison({ leaf, course, onChange }: FieldProps & { readonly course: Course }) {
  const measure = CATALOGUE[leaf.measure];
  if (measure.unit === 'yesNo') {
    const value = (leaf.value === true) === (leaf.is !== 'differs');
    return (
      <SelectField
        label="is"
        value={String(value)}
        onChange={(e) => onChange({ ...leaf, is: 'equals', value: e.target.value === 'true' })}
      >
        <option value="true">yes</option>
        <option value="false">no</option>
      </SelectField>
    );
  }
  const bare = leaf.is === 'empty' || leaf.is === 'filled';
  const marks = Object.keys(course.marks);
  return (
    <div className="flex flex-wrap items-start gap-3">
      {!bare && measure.unit === 'text' && typeof leaf.value !== 'object' && (
        <TextField
          label="compared with"
          value={String(leaf.value ?? '')}
          onChange={(value) => onChange({ ...leaf, value }, 'value')}
        />
      )}
      {!bare && measure.unit !== 'text' && typeof leaf.value === 'number' && (
        <NumberField
          label="compared with"
          unit={UNITS[measure.unit]}
          whole={measure.unit === 'days' || measure.unit === 'count'}
          {...(measure.unit === 'hours' || measure.unit === 'points' || measure.classWide ? {} : { min: 0 })}
          {...(measure.unit === 'percent' ? { max: 1000 } : {})}
          value={leaf.value}
          onChange={(value) => value !== null && onChange({ ...leaf, value }, 'value')}
        />
      )}
      {!bare && typeof leaf.value === 'object' && (
        <SelectField
          label="compared with"
          value={leaf.value.mark}
          onChange={(e) => onChange({ ...leaf, value: { mark: e.target.value } })}
        >
          {marks.map((m) => (
            <option key={m} value={m}>
              the {m} mark ({course.marks[m]})
            </option>
          ))}
        </SelectField>
      )}
      <SelectField
        label="how"
        value={leaf.is}
        onChange={(e) => {
          const is = e.target.value as Comparator;
          const { value, ...rest } = leaf;
          onChange(
            is === 'empty' || is === 'filled'
              ? { ...rest, is }
              : { ...rest, is, value: value ?? (measure.unit === 'text' ? 'text' : 0) },
          );
        }}
      >
        {comparatorsFor(measure).map((c) => (
          <option key={c} value={c}>
            {COMPARISONS[c]}
          </option>
        ))}
      </SelectField>
      {!bare && measure.unit === 'percent' && marks.length > 0 && (
        <Button
          look="quiet"
          className="mt-6"
          onClick={() =>
            onChange({
              ...leaf,
              value: typeof leaf.value === 'object' ? (course.marks[leaf.value.mark] ?? 0) : { mark: marks[0]! },
            })
          }
        >
          {typeof leaf.value === 'object' ? 'Use a number' : `Use the ${marks[0]} mark`}
        </Button>
      )}
    </div>
  );
}

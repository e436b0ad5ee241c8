/** What a measure is compared with: a number, a mark of the course, a text, yes or no. */
import type { Course } from '@zest-bell/core/course';
import type { Range } from '@zest-bell/core/problem';
import { CATALOGUE, rangeOf, type NumberOrMark } from '@zest-bell/core/measures';
import { comparatorsFor, type Comparator, type Leaf } from '@zest-bell/core/conditions';
import { Button } from '../../ui/Button.tsx';
import { NumberField, SelectField, TextField } from '../../ui/fields.tsx';
import type { LeafProps } from './Scope.tsx';

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

/** Chosen in place of one comparison: two bounds of the same measure. */
const BETWEEN = 'between';

export function Comparison({
  leaf,
  course,
  onChange,
  onBetween,
}: LeafProps & { readonly onBetween?: ((low: Leaf, high: Leaf) => void) | undefined }) {
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
  return (
    <div className="flex flex-wrap items-start gap-3">
      {!bare && measure.unit === 'text' && typeof leaf.value !== 'object' && (
        <TextField
          label="compared with"
          value={String(leaf.value ?? '')}
          onChange={(value) => onChange({ ...leaf, value }, 'value')}
        />
      )}
      {!bare && measure.unit !== 'text' && leaf.value !== undefined && (
        <NumberOrMarkField
          label="compared with"
          unit={UNITS[measure.unit]}
          range={rangeOf(measure)}
          value={leaf.value as NumberOrMark}
          marks={measure.unit === 'percent' ? course.marks : {}}
          onChange={(value) => onChange({ ...leaf, value }, 'value')}
        />
      )}
      <SelectField
        label="how"
        value={leaf.is}
        onChange={(e) => {
          if (e.target.value === BETWEEN) return onBetween?.(...boundsAround(leaf));
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
        {onBetween && typeof leaf.value === 'number' && <option value={BETWEEN}>between two …</option>}
      </SelectField>
    </div>
  );
}

/** A lower and an upper bound of what is compared with one number now; the number stays the bound that it was. */
function boundsAround(leaf: Leaf): [Leaf, Leaf] {
  const value = typeof leaf.value === 'number' ? leaf.value : 0;
  const span = Math.max(1, Math.round(Math.abs(value) / 5));
  const isUpper = leaf.is === '<=' || leaf.is === '<';
  const [low, high] = isUpper ? [value - span, value] : [value, value + span];
  return [
    { ...leaf, is: '>=', value: low },
    { ...leaf, is: '<=', value: high },
  ];
}

const SCORE_UNITS = { score: 'in %', points: 'in points', gradeVsClass: 'against the class mean' } as const;

/** The same result of an item in %, in points, or beside the mean of the class. */
export function ScoreUnit({ leaf, course, onChange }: LeafProps) {
  const item = course.items[course.itemIndex.get(leaf.item ?? '') ?? -1];
  if (!(leaf.measure in SCORE_UNITS) || !item) return null;
  const change = (unit: keyof typeof SCORE_UNITS) => {
    const points = item.points ?? 100;
    const number = typeof leaf.value === 'number' ? leaf.value : 50;
    if (unit === 'gradeVsClass') return onChange({ measure: unit, item: item.id, is: '<=', value: -10 });
    if (leaf.measure === 'gradeVsClass') {
      return onChange({ measure: unit, item: item.id, is: '<=', value: unit === 'score' ? 50 : points / 2 });
    }
    const { is } = leaf;
    if (is === 'empty' || is === 'filled') return onChange({ measure: unit, item: item.id, is });
    // The same place on the scale in its other unit.
    const value = unit === 'points' ? (number * points) / 100 : (number * 100) / points;
    onChange({ measure: unit, item: item.id, is, value: Math.round(value * 100) / 100 });
  };
  return (
    <SelectField
      label="measured"
      value={leaf.measure}
      onChange={(e) => change(e.target.value as keyof typeof SCORE_UNITS)}
    >
      {Object.entries(SCORE_UNITS).map(([unit, words]) => (
        <option key={unit} value={unit}>
          {words}
        </option>
      ))}
    </SelectField>
  );
}

/** A number, or one of the course's named marks: changing the mark changes every rule that uses it. */
export function NumberOrMarkField(props: {
  readonly label: string;
  readonly unit: string;
  readonly value: NumberOrMark;
  readonly marks: Course['marks'];
  readonly range: Range | null | undefined;
  readonly onChange: (value: NumberOrMark) => void;
}) {
  const { value, marks, onChange, label, unit, range } = props;
  const names = Object.keys(marks);
  const mark = typeof value === 'object' ? value.mark : null;
  return (
    <>
      {mark === null ? (
        <NumberField
          {...{ ...range, unit, label }}
          value={value as number}
          onChange={(n) => n !== null && onChange(n)}
        />
      ) : (
        <SelectField label={label} value={mark} onChange={(e) => onChange({ mark: e.target.value })}>
          {[...new Set([...names, mark])].map((m) => (
            <option key={m} value={m}>
              the {m} score ({marks[m] ?? 'gone'})
            </option>
          ))}
        </SelectField>
      )}
      {(names.length > 0 || mark !== null) && (
        <Button
          look="quiet"
          className="mt-6"
          onClick={() => onChange(mark === null ? { mark: names[0]! } : (marks[mark] ?? 0))}
        >
          {mark === null ? `Use the ${names[0]} score` : 'Use a number'}
        </Button>
      )}
    </>
  );
}

/** One condition: what is measured, of which item, and compared with what. */
import { useState } from 'react';
import type { Instant } from '@zest-bell/core/time';
import { CATALOGUE } from '@zest-bell/core/measures';
import { leafClause, type Leaf } from '@zest-bell/core/conditions';
import { Button } from '../../ui/Button.tsx';
import { Labelled, NumberField, SelectField, TextField } from '../../ui/fields.tsx';
import { columnsOf, defaultLeaf } from '../../lib/ruleDefaults.ts';
import { Comparison, NumberOrMarkField, ScoreUnit } from './Comparison.tsx';
import { closeFresh, isFresh } from './fresh.ts';
import { MeasurePicker } from './MeasurePicker.tsx';
import { Part } from '../../ui/Part.tsx';
import { GroupSelect, ItemSelect, ItemsSelect, WindowSelect, type LeafProps } from './Scope.tsx';

export interface ConditionPartProps extends LeafProps {
  readonly now: Instant;
  /** In place of the words of its clause, where it is a part of another one. */
  readonly words?: string;
  readonly onRemove: (() => void) | null;
  readonly onOpen: () => void;
  /** Asks for a lower and an upper bound in place of the one; none where a condition cannot stand beside this one. */
  readonly onBetween?: ((low: Leaf, high: Leaf) => void) | undefined;
}

export function ConditionPart(props: ConditionPartProps) {
  const { leaf, course, now, onChange, onRemove, onOpen, onBetween } = props;
  const measure = CATALOGUE[leaf.measure];
  const [picking, setPicking] = useState(false);
  const [added] = useState(() => isFresh(leaf));
  return (
    <Part
      words={props.words ?? leafClause(leaf, course).marked}
      label="Condition"
      open={added}
      onClose={closeFresh}
      onOpen={() => {
        setPicking(false);
        onOpen();
      }}
      wide
    >
      {picking ? (
        <MeasurePicker
          chosen={leaf.measure}
          onChoose={(name) => {
            setPicking(false);
            if (name !== leaf.measure) onChange(keepItem(defaultLeaf(name, course, now), leaf));
          }}
        />
      ) : (
        <>
          <Labelled label="What to look at">
            {(id) => (
              <button
                id={id}
                type="button"
                onClick={() => setPicking(true)}
                className="field flex items-center justify-between gap-3 text-left font-semibold"
              >
                {measure.title}
                <span className="text-[13px] font-normal text-ink-3">change …</span>
              </button>
            )}
          </Labelled>
          <MeasureFields leaf={leaf} course={course} onChange={onChange} />
          <ScoreUnit leaf={leaf} course={course} onChange={onChange} />
          <Comparison leaf={leaf} course={course} onChange={onChange} onBetween={onBetween} />
          {onRemove && (
            <Button look="quiet" className="justify-self-start" onClick={onRemove}>
              Remove this condition
            </Button>
          )}
        </>
      )}
    </Part>
  );
}

/** Everything that a measure has to be told, without its comparison. */
export function MeasureFields(props: LeafProps) {
  const { parameters } = CATALOGUE[props.leaf.measure];
  return (
    <>
      <Parameters {...props} />
      {'item' in parameters && <ItemSelect {...props} />}
      {'group' in parameters && <GroupSelect {...props} />}
      {'items' in parameters && <ItemsSelect {...props} />}
      {'window' in parameters && <WindowSelect {...props} />}
    </>
  );
}

/** An item chosen before stays when the measure changes to another one of an item. */
const keepItem = (next: Leaf, before: Leaf): Leaf =>
  next.item !== undefined && before.item !== undefined ? { ...next, item: before.item } : next;

const OF_WORDS = {
  open: 'opened',
  practice: 'practiced',
  submit: 'submitted',
  post: 'posted in',
  done: 'done in a row',
  missed: 'missed in a row',
} as const;

/** What a measure needs to be told beside item, group and window. */
function Parameters({ leaf, course, onChange }: LeafProps) {
  const { parameters, ranges } = CATALOGUE[leaf.measure];
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
      {leaf.measure === 'dueSoon' && (
        <SelectField
          label="counted in"
          value={leaf.days === undefined ? 'hours' : 'days'}
          onChange={(e) => {
            const { hours: _hours, days: _days, ...rest } = leaf;
            onChange(e.target.value === 'days' ? { ...rest, days: 1 } : { ...rest, hours: 48 });
          }}
        >
          <option value="days">calendar days</option>
          <option value="hours">hours</option>
        </SelectField>
      )}
      {leaf.hours !== undefined && (
        <NumberField
          label="within"
          unit="hours"
          {...ranges?.hours}
          value={leaf.hours}
          onChange={(hours) => hours !== null && onChange({ ...leaf, hours }, 'hours')}
        />
      )}
      {leaf.days !== undefined && (
        <NumberField
          label={leaf.measure === 'dueSoon' ? 'within (0 is today, 1 is tomorrow)' : 'over'}
          unit="days"
          {...ranges?.days}
          value={leaf.days}
          onChange={(days) => days !== null && onChange({ ...leaf, days }, 'days')}
        />
      )}
      {'than' in parameters && (
        <NumberOrMarkField
          label={leaf.measure === 'lowScores' ? 'scores under' : 'scores of at least'}
          unit="%"
          range={ranges?.than}
          value={leaf.than ?? 60}
          marks={course.marks}
          onChange={(than) => onChange({ ...leaf, than }, 'than')}
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
        <p className="text-[13px] text-ink-2">This course has no imported columns yet.</p>
      )}
    </>
  );
}

/** What a column measures: of which item or group, over what time. */
import { useState } from 'react';
import { CATALOGUE, type MeasureCall } from '@zest-bell/core/measures';
import type { Leaf } from '@zest-bell/core/conditions';
import type { CourseHere } from '../../lib/here.ts';
import { MeasureFields } from '../../parts/conditions/ConditionPart.tsx';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

const leafOfCall = (call: MeasureCall): Leaf => ({ ...call, is: 'filled' });
export const callOfLeaf = ({ is: _is, value: _value, ...call }: Leaf): MeasureCall => call;

/** Whether a measure has to be told anything. */
export const hasFields = (call: MeasureCall): boolean => Object.keys(CATALOGUE[call.measure].parameters).length > 0;

export function ColumnDialog(props: {
  readonly here: CourseHere;
  readonly call: MeasureCall;
  readonly onSave: (call: MeasureCall) => void;
  readonly onClose: () => void;
}) {
  const { here } = props;
  const [leaf, setLeaf] = useState(leafOfCall(props.call));
  const measure = CATALOGUE[leaf.measure];
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={measure.title}
      note={`The column shows ${measure.label(leaf, here.course)}.`}
      foot={
        <Button look="main" onClick={() => props.onSave(callOfLeaf(leaf))}>
          Show this column
        </Button>
      }
    >
      <div className="grid gap-4 px-6 py-5">
        <MeasureFields leaf={leaf} course={here.course} onChange={setLeaf} />
      </div>
    </Dialog>
  );
}

/** Every number of a rule in one place: for a copy that is to be stricter, or milder, all through. */
import { useState } from 'react';
import { numbersOf, withNumbers, type Rule, type RuleNumber } from '@zest-bell/core/rules';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { NumberField } from '../../ui/fields.tsx';
import { Empty } from '../../parts/common/States.tsx';

const UNITS: Readonly<Record<RuleNumber['unit'], string>> = {
  days: 'days',
  hours: 'hours',
  percent: '%',
  points: 'points',
  count: '',
  yesNo: '',
  text: '',
  times: 'times',
};

export function NumbersDialog({
  here,
  rule,
  onChange,
  onClose,
}: {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly onChange: (rule: Rule) => void;
  readonly onClose: () => void;
}) {
  const numbers = numbersOf(rule, here.course);
  const [changed, setChanged] = useState<ReadonlyMap<string, number>>(new Map());
  return (
    <Dialog
      open
      onClose={onClose}
      title="All numbers in this rule"
      note="All numbers change together. You can undo this in one step."
      foot={
        <>
          <Button className="ml-auto" onClick={onClose}>
            Cancel
          </Button>
          <Button
            look="main"
            disabled={changed.size === 0}
            onClick={() => {
              onChange(withNumbers(rule, here.course, changed));
              onClose();
            }}
          >
            Change {changed.size === 1 ? 'one number' : `${changed.size} numbers`}
          </Button>
        </>
      }
    >
      {numbers.length === 0 ? (
        <Empty title="This rule has no numbers">Its conditions are yes or no, and it has no limits.</Empty>
      ) : (
        <ul className="grid gap-4 px-6 py-5">
          {numbers.map((n) => (
            <li key={n.path} className="grid grid-cols-[1fr_auto] items-end gap-4">
              <span className="pb-1.5 text-[14.5px] leading-snug">{n.of}</span>
              <NumberField
                label={n.label}
                unit={UNITS[n.unit]}
                {...n.range}
                value={changed.get(n.path) ?? n.value}
                onChange={(value) => {
                  const next = new Map(changed);
                  if (value === null || value === n.value) next.delete(n.path);
                  else next.set(n.path, value);
                  setChanged(next);
                }}
              />
            </li>
          ))}
        </ul>
      )}
    </Dialog>
  );
}

import { useState } from 'react';
import { Popover } from 'radix-ui';
import { Pop } from '../../ui/Pop.tsx';
import type { Instant } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import type { Condition, Leaf } from '@zest-bell/core/conditions';
import { defaultLeaf } from '../../lib/ruleDefaults.ts';
import { markFresh } from './fresh.ts';
import { MeasurePicker } from './MeasurePicker.tsx';

/** Chooses a measure, or something of the course by its name, and adds a first condition on it, which opens to be said. */
export function AddCondition(props: {
  readonly course: Course;
  readonly now: Instant;
  readonly onAdd: (condition: Condition) => void;
}) {
  const [open, setOpen] = useState(false);
  const add = (leaf: Leaf) => {
    setOpen(false);
    props.onAdd(markFresh(leaf));
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="rounded-lg border border-dashed border-pine px-2 py-0.5 align-middle font-body text-[14px] leading-snug font-semibold text-pine hover:border-solid">
        + condition
      </Popover.Trigger>
      <Pop label="Add a condition" focusBack={false} className="w-[380px] p-3">
        <MeasurePicker
          course={props.course}
          onChoose={(measure) => add(defaultLeaf(measure, props.course, props.now))}
          onChooseAbout={add}
          onSay={(condition) => {
            setOpen(false);
            props.onAdd(condition);
          }}
        />
      </Pop>
    </Popover.Root>
  );
}

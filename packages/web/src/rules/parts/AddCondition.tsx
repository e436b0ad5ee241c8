import { useState } from 'react';
import { Popover } from 'radix-ui';
import type { Course, Instant, Leaf } from '@zest-bell/core';
import { defaultLeaf } from '../defaults.ts';
import { MeasurePicker } from './MeasurePicker.tsx';

/** Chooses a measure, and adds a first condition on it. */
export function AddCondition(props: {
  readonly course: Course;
  readonly now: Instant;
  readonly onAdd: (leaf: Leaf) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="rounded-lg border border-dashed border-pine px-2 py-0.5 align-middle font-body text-[14px] leading-snug font-semibold text-pine hover:border-solid">
        + condition
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          collisionPadding={12}
          aria-label="Add a condition"
          className="pop z-50 w-[380px] max-w-[calc(100vw-24px)] p-3"
        >
          <MeasurePicker
            onChoose={(measure) => {
              setOpen(false);
              props.onAdd(defaultLeaf(measure, props.course, props.now));
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

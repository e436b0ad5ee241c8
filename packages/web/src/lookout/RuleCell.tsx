/** Since when a student matches a rule, with its evidence on hover and on focus. */
import { Tooltip } from 'radix-ui';
import { plural, type Value } from '@zest-bell/core';

export function RuleCell({ value, evidence }: { readonly value: Value; readonly evidence: string | null }) {
  if (typeof value !== 'number') return <span className="text-ink-3">–</span>;
  return (
    <Tooltip.Provider delayDuration={150}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>
          <span
            tabIndex={0}
            className="cursor-help rounded-md bg-zest-area px-1.5 font-num leading-6 outline-offset-1"
            aria-label={`matches ${value === 0 ? 'since today' : `for ${plural(value, 'day')}`}: ${evidence ?? ''}`}
          >
            {value === 0 ? 'today' : `${value} d`}
          </span>
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={4}
            collisionPadding={12}
            className="pop z-[70] max-w-[280px] px-3 py-2 text-[13.5px] leading-snug"
          >
            {evidence}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}

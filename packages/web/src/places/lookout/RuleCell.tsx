/** Since when a student matches a rule, with its evidence on hover and on focus. */
import { plural } from '@zest-bell/core/time';
import type { Value } from '@zest-bell/core/measures';
import { Tip } from '../../ui/Tip.tsx';

export function RuleCell({ value, evidence }: { readonly value: Value; readonly evidence: string | null }) {
  if (typeof value !== 'number') return <span className="text-ink-3">–</span>;
  return (
    <Tip
      tip={evidence}
      className="rounded-md bg-zest-area px-1.5 font-num leading-6 outline-offset-1"
      label={`matches ${value === 0 ? 'since today' : `for ${plural(value, 'day')}`}: ${evidence ?? ''}`}
    >
      {value === 0 ? 'today' : `${value} d`}
    </Tip>
  );
}

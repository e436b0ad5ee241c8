/** The header of a rule as a column: how many match, for how long, and how many do not; each is a brush. */
import { ruleBrushWords, MATCHING, type Brush, type RuleBrush } from '@zest-bell/core/lookout';
import { BRUSH_WIDTH, HeaderBrush, type HeaderBrushProps } from './HeaderBrush.tsx';

/** A brush on the days of a rule; nobody can be asked for by a choice among values. */
export const ruleBrushOf = (brush: Brush | null): RuleBrush['brush'] | null =>
  brush === null || brush.kind === 'some' ? null : brush;

export function RuleHeader(props: HeaderBrushProps) {
  const { title, distribution, brush, onBrush } = props;
  const count = distribution.counts.reduce((a, b) => a + b, 0);
  const matching = brush?.kind === 'range' && ruleBrushWords(ruleBrushOf(brush)!).after === '';
  return (
    <>
      <button
        type="button"
        aria-pressed={matching}
        aria-label={`${title}: ${count} match`}
        onClick={() => onBrush(matching ? null : MATCHING)}
        className="mb-0.5 block h-[18px] rounded px-0.5 text-[11px] leading-[16px] font-semibold hover:bg-fog aria-pressed:bg-zest-soft"
      >
        {count} match
      </button>
      <HeaderBrush {...props} width={BRUSH_WIDTH.rule} without="do not" />
    </>
  );
}

/** What the table asks of rules, in its sentence: “match “Falling quiet” for 5 days or more”, joined by “and” or by “or”. */
import { Popover } from 'radix-ui';
import { Markable } from '../../ui/Markable.tsx';
import { Pop } from '../../ui/Pop.tsx';
import { MATCHING, NOT_MATCHING, ruleBrushWords, type LookoutView, type RuleBrush } from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { NumberField, SelectField } from '../../ui/fields.tsx';
import { useRuleNames } from './ruleNames.ts';

interface RulePartsProps {
  readonly here: CourseHere;
  readonly view: LookoutView;
  readonly onChange: (part: Partial<LookoutView>) => void;
}

export function RuleParts(props: RulePartsProps) {
  const { view, onChange } = props;
  const names = useRuleNames(props.here);
  const any = view.rulesJoin === 'any';
  const several = view.ruleBrushes.length > 1;
  // Beside another condition “or” would be read wrongly without its brackets.
  const bracketed = several && any && (view.when !== null || view.logBrushes.length > 0);
  return (
    <>
      {bracketed && '('}
      {view.ruleBrushes.map((own, i) => (
        <span key={own.rule}>
          {i > 0 && (
            <>
              {' '}
              <button
                type="button"
                aria-label={`${any ? 'or' : 'and'}: ask for ${any ? 'all of these rules' : 'any of these rules'}`}
                title={any ? 'Ask for all of them' : 'Ask for any of them'}
                onClick={() => onChange({ rulesJoin: any ? 'all' : 'any' })}
                className="rounded text-[0.8em] text-ink-3 underline decoration-dotted underline-offset-4 hover:text-ink"
              >
                {any ? 'or' : 'and'}
              </button>{' '}
            </>
          )}
          <RulePart {...props} own={own} name={names.get(own.rule) ?? 'a rule that is gone'} />
        </span>
      ))}
      {bracketed && ')'}
    </>
  );
}

function RulePart({ view, onChange, own, name }: RulePartsProps & { readonly own: RuleBrush; readonly name: string }) {
  const { lead, after } = ruleBrushWords(own.brush);
  const set = (brush: RuleBrush['brush'] | null) =>
    onChange({
      ruleBrushes: view.ruleBrushes.flatMap((b) =>
        b.rule !== own.rule ? [b] : brush === null ? [] : [{ ...b, brush }],
      ),
    });
  return (
    <>
      {lead}{' '}
      <Popover.Root>
        <Popover.Trigger asChild>
          <Markable label={`Rule: ${lead} ${name} ${after}`.trim()}>{`“${name}” ${after}`.trim()}</Markable>
        </Popover.Trigger>
        <Pop label={`Rule ${name}`} className="grid w-[340px] gap-4 p-4">
          <SelectField
            label="students who"
            value={own.brush.kind}
            onChange={(e) => set(e.target.value === 'unknown' ? NOT_MATCHING : MATCHING)}
          >
            <option value="range">match it</option>
            <option value="unknown">do not match it</option>
          </SelectField>
          {own.brush.kind === 'range' && (
            <NumberField
              label="for at least"
              unit="days"
              whole
              min={0}
              value={own.brush.low ?? 0}
              onChange={(low) => set({ kind: 'range', low, high: own.brush.kind === 'range' ? own.brush.high : null })}
            />
          )}
          <Button look="quiet" className="justify-self-start" onClick={() => set(null)}>
            Remove this condition
          </Button>
        </Pop>
      </Popover.Root>
    </>
  );
}

/** What is said, step by step: each with its distance, its words, whom it goes to, and whether it sends itself or waits. */
import type { Rule, Step } from '@zest-bell/core/rules';
import type { CourseHere } from '../../../lib/here.ts';
import { StepLine } from './StepLine.tsx';
import { Explained } from '../../../ui/Explained.tsx';

/** A later step comes five days after the one before unless it is told otherwise. */
const LATER = 5;

export function StepLines({
  here,
  rule,
  student,
  onChange,
}: {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly student: string | null;
  readonly onChange: (steps: readonly Step[], tag?: string) => void;
}) {
  const { steps } = rule;
  const addStep = () => {
    const last = steps.at(-1)!;
    onChange([...steps, { ...last, after: { days: last.after.days + LATER, hours: last.after.hours } }]);
  };
  return (
    <>
      <ol>
        {steps.map((step, i) => (
          <StepLine
            key={i}
            here={here}
            step={step}
            place={i}
            before={steps[i - 1] ?? null}
            rule={rule}
            student={student}
            onChange={(next, tag) =>
              onChange(
                steps.map((s, n) => (n === i ? next : s)),
                tag && `step${i}:${tag}`,
              )
            }
            onRemove={steps.length > 1 ? () => onChange(steps.filter((_, n) => n !== i)) : null}
          />
        ))}
      </ol>
      <div className="border-t border-line py-3 pl-[84px] max-[559px]:pl-0">
        <button
          type="button"
          onClick={addStep}
          className="rounded-lg border border-dashed border-pine px-2 py-0.5 text-[14px] font-semibold text-pine hover:border-solid"
        >
          + later step
        </button>
        <span className="ml-3 text-[13.5px] text-ink-3">
          A later <Explained word="step">step</Explained> follows while the student still matches.
        </span>
      </div>
    </>
  );
}

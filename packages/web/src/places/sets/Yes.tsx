/** What a course said when a change was to be confirmed there, and the yes that it asks for. */
import type { SetOutcome } from '@zest-bell/core/exchange';
import { Check } from '../../ui/fields.tsx';
import type { Choice } from './useChoices.ts';

export function Yes(props: {
  readonly problem: NonNullable<SetOutcome['problem']>;
  readonly choice: Choice;
  readonly onChange: (next: Partial<Choice>) => void;
}) {
  const { problem, choice, onChange } = props;
  const allowed = problem.addresses.length > 0 && problem.addresses.every((a) => choice.outside.includes(a));
  return (
    <div role="alert" className="mt-2 rounded-lg bg-tangerine-soft px-3 py-2 text-[14.5px]">
      <p>
        <span aria-hidden>▲ </span>
        {problem.words}
      </p>
      {problem.code === 'reachesMany' && (
        <Check
          label={<strong>Allow it for this course</strong>}
          checked={choice.confirmed}
          onChange={(confirmed) => onChange({ confirmed })}
        />
      )}
      {problem.addresses.length > 0 && (
        <Check
          label={<strong>Allow messages about students to these addresses</strong>}
          checked={allowed}
          onChange={(yes) => onChange({ outside: yes ? problem.addresses : [] })}
        />
      )}
    </div>
  );
}

/** What is shown once and has to be copied now. */
import { useId } from 'react';
import { toast } from 'sonner';
import { Button } from './Button.tsx';

export function SecretField({
  label,
  value,
  named,
}: {
  readonly label: string;
  readonly value: string;
  readonly named: string;
}) {
  const id = useId();
  return (
    <div className="mt-3" role="status">
      <label className="text-[13px] font-semibold text-ink-2" htmlFor={id}>
        {label}
      </label>
      <div className="mt-1 flex flex-wrap gap-2">
        <input
          id={id}
          className="field min-w-0 flex-1 font-num text-[14px]"
          readOnly
          value={value}
          onFocus={(e) => e.target.select()}
        />
        <Button
          onClick={() =>
            navigator.clipboard.writeText(value).then(
              () => toast(`Copied the ${named}.`),
              () => toast.error(`The ${named} could not be copied. Select it and copy it.`),
            )
          }
        >
          Copy
        </Button>
      </div>
    </div>
  );
}

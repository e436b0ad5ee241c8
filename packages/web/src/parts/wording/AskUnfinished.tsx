/** Before a text leaves that looks as if somebody meant to go on: the words, and a yes to sending them as they are. */
import { Check } from '../../ui/fields.tsx';

export function AskUnfinished(props: {
  readonly parts: readonly string[];
  /** What the yes is to: “Send it as it is”. */
  readonly act: string;
  readonly yes: boolean;
  readonly onYes: (yes: boolean) => void;
}) {
  return (
    <div role="alert" className="rounded-xl bg-tangerine-soft px-4 py-3 text-[14.5px]">
      <p>
        ▲ This looks unfinished. Students would read:{' '}
        {props.parts.map((part, i) => (
          <span key={part}>
            {i > 0 && ', '}
            <mark className="rounded bg-zest-soft px-1 font-semibold text-ink">{part}</mark>
          </span>
        ))}
      </p>
      <Check label={<strong>{props.act}</strong>} checked={props.yes} onChange={props.onYes} />
    </div>
  );
}

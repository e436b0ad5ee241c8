import type { Check, Variant } from '@zest-bell/core/wording';
import { Button } from '../../ui/Button.tsx';

/** What may embarrass, each with its reason and, where there is one, its mend. It advises, and blocks nothing. */
export function CheckList(props: { readonly checks: readonly Check[]; readonly onMend: (words: Variant) => void }) {
  if (props.checks.length === 0) {
    return <p className="text-[14px] text-ink-2">✓ The checks found nothing in this text.</p>;
  }
  return (
    <ul className="grid gap-2" aria-label="Checks">
      {props.checks.map((c, i) => (
        <li
          key={i}
          className="flex flex-wrap items-center gap-x-3 gap-y-1 rounded-xl bg-tangerine-soft px-3 py-2 text-[14px]"
        >
          <span className="min-w-0 flex-1 basis-52">
            <span aria-hidden className="text-tangerine-text">
              ▲{' '}
            </span>
            {c.message}.
          </span>
          {c.mend && <Button onClick={() => props.onMend(c.mend!.words)}>{c.mend.label}</Button>}
        </li>
      ))}
    </ul>
  );
}

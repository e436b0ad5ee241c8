/** A message as a student reads it. Its HTML is our own rendering, escaped by the core, shown in a frame without scripts. */
import type { Message as Rendered } from '@zest-bell/core';

export function MessageView({
  message,
  from,
  to,
}: {
  readonly message: Pick<Rendered, 'subject' | 'text'>;
  readonly from: string;
  readonly to?: string;
}) {
  return (
    <article className="rounded-[18px] border border-line bg-sheet p-5 text-ink">
      <p className="text-[13px] text-ink-2">{from}</p>
      {to && <p className="text-[13px] break-words text-ink-3">to {to}</p>}
      <h3 className="mt-0.5 font-body text-[16px] font-bold break-words">{message.subject}</h3>
      <p className="mt-3 leading-[1.55] break-words whitespace-pre-line">{message.text}</p>
    </article>
  );
}

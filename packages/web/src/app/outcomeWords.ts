import { plural, type TextResult } from '@zest-bell/core';

/** How often something was sent, and what came of it: each count with its whole. Nudges whose two weeks are not over are named apart. */
export function outcomeWords({ sent, returns, replies, open }: TextResult): string {
  const back = returns && `${returns.count} of ${returns.of} came back`;
  const answered = replies.of > 0 && `${replies.count} of ${replies.of} replied`;
  const early = open > 0 && `${open} too recent to tell`;
  return [`sent ${plural(sent, 'time')}`, back, answered, early].filter(Boolean).join(' · ');
}

import { plural, numberWords } from '@zest-bell/core/time';
import type { TextResult } from '@zest-bell/core/outcomes';

/** How often something was sent, and the results: each count with its whole. Nudges within their two weeks are named apart. */
export function outcomeWords({ sent, returns, replies, open, openBack, openReplied }: TextResult): string {
  const back = returns && `${numberWords(returns.count)} of ${numberWords(returns.of)} came back`;
  const answered = replies.of > 0 && `${numberWords(replies.count)} of ${numberWords(replies.of)} replied`;
  const soon = [openBack > 0 && `${openBack} back`, openReplied > 0 && `${openReplied} replied`].filter(Boolean);
  const early = open > 0 && `${open} too recent to tell${soon.length > 0 ? ` (${soon.join(', ')} already)` : ''}`;
  return [`sent ${plural(sent, 'time')}`, back, answered, early].filter(Boolean).join(' · ');
}

import type { InboxKind } from '@zest-bell/core/exchange';

/** Where each kind is dealt with. */
export const INBOX_PLACES: Readonly<Record<InboxKind, string>> = {
  troubles: 'today',
  waiting: 'tray',
  replies: 'today#replies',
  bounced: 'today',
  unclear: 'today',
  falling: 'today#falling',
  setUpLeft: 'setup',
};

import type { MessageState } from '@zest-bell/core/nudges';
import { Chip, type Tone } from '../../ui/Chip.tsx';

export const STATE_WORDS: Readonly<Record<MessageState, string>> = {
  queued: 'queued',
  held: 'waiting for you',
  handing: 'being sent',
  sent: 'sent',
  failed: '▲ failed',
  uncertain: '▲ unclear',
  withdrawn: 'canceled',
  dismissed: 'dismissed',
};

const STATE_TONES: Readonly<Record<MessageState, Tone>> = {
  queued: 'quiet',
  held: 'iris',
  handing: 'quiet',
  sent: 'zest',
  failed: 'tangerine',
  uncertain: 'tangerine',
  withdrawn: 'quiet',
  dismissed: 'quiet',
};

export function StateChip({ state }: { readonly state: MessageState }) {
  return <Chip tone={STATE_TONES[state]}>{STATE_WORDS[state]}</Chip>;
}

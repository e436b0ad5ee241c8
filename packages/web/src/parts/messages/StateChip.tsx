import { STATE_NAMES, type MessageState } from '@zest-bell/core/nudges';
import { Chip, type Tone } from '../../ui/Chip.tsx';

/** What went wrong has a second sign. */
export const STATE_WORDS: Readonly<Record<MessageState, string>> = {
  ...STATE_NAMES,
  failed: `▲ ${STATE_NAMES.failed}`,
  uncertain: `▲ ${STATE_NAMES.uncertain}`,
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

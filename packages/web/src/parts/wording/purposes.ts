import type { WordingPurpose } from '@zest-bell/core/wording';
import type { Tone } from '../../ui/Chip.tsx';

export const PURPOSE_WORDS: Readonly<Record<WordingPurpose, string>> = {
  support: 'support',
  firm: 'firm',
  praise: 'praise',
  reminder: 'reminder',
  toMyself: 'alert to myself',
};

export const PURPOSE_TONES: Readonly<Record<WordingPurpose, Tone>> = {
  support: 'zest',
  firm: 'iris',
  praise: 'brass',
  reminder: 'tangerine',
  toMyself: 'quiet',
};

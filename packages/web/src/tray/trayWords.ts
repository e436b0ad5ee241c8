import { DAY, HOUR, plural, type HeldReason, type Instant, type TrayLine } from '@zest-bell/core';

/** Why a nudge waits, as a chip says it. */
export const HELD_WORDS: Readonly<Record<HeldReason, string>> = {
  step: 'asks you first',
  replied: 'the student replied',
  outside: 'outside address',
};

/** How soon what was found passes by itself. */
export function passesWords(at: Instant, now: Instant): string {
  const left = at - now;
  if (left < HOUR) return 'passes within the hour';
  return left < 2 * DAY
    ? `passes in ${plural(Math.round(left / HOUR), 'hour')}`
    : `passes in ${plural(Math.round(left / DAY), 'day')}`;
}

/** To a student, or about one where only others are written to. */
export const toOrAbout = ({ to, name }: Pick<TrayLine, 'to' | 'name'>): string =>
  `${to.some((one) => one.kind === 'student') ? 'to' : 'about'} ${name}`;

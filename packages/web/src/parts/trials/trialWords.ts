/** What a fair trial says so far, in words that claim no more than it shows. */
import { plural, numberWords } from '@zest-bell/core/time';
import { FEWEST, type TrialPair } from '@zest-bell/core/outcomes';
import type { TrialView } from '@zest-bell/core/exchange';

const points = (share: number): string => plural(Math.round(Math.abs(share) * 100), 'point');

export function pairWords(trial: Pick<TrialView, 'texts' | 'needed'>, { a, b, difference, differ }: TrialPair): string {
  const names = `Text ${a + 1} and text ${b + 1}`;
  const of = Math.min(trial.texts[a]!.of, trial.texts[b]!.of);
  if (difference === null || of < FEWEST) return `${names}: too few to tell.`;
  const { value, low, high } = difference;
  if (differ) {
    const [better, worse] = value > 0 ? [a, b] : [b, a];
    const [least, most] = value > 0 ? [low, high] : [-high, -low];
    return `Text ${better + 1} brings more students back than text ${worse + 1}: ${points(value)} more, likely between ${Math.round(least * 100)} and ${Math.round(most * 100)}. Chance alone would rarely do that.`;
  }
  const range = `Text ${a + 1} may be up to ${points(low)} worse or ${points(high)} better`;
  return of < trial.needed ? `${names}: too few to tell. ${range}.` : `${names}: no clear difference. ${range}.`;
}

/** How far the trial is. */
export function standingWords(trial: Pick<TrialView, 'texts' | 'open' | 'needed' | 'standing'>): string {
  const counted = trial.texts.reduce((n, t) => n + t.of, 0);
  const open = trial.open.reduce((a, b) => a + b, 0);
  const needed = trial.needed * trial.texts.length;
  const waiting = open > 0 ? ` ${plural(open, 'student')} may still come back.` : '';
  return `${numberWords(counted)} of ${plural(needed, 'student')} counted.${waiting}`;
}

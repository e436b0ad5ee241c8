/** What two terms tell, in words. */
import { plural } from '../time/words.ts';
import type { ComparedShares, ReportedRule } from './compare.ts';

export const SHARE_WORDS: Readonly<Record<ComparedShares['what'], string>> = {
  returns: 'came back within two weeks',
  replies: 'replied',
  found: 'found, of those you worry about',
};

/** “week 3”: in which a rule reached its students first, the median of them. */
export const firstWeekWords = ({ firstDay }: Pick<ReportedRule, 'firstDay'>): string =>
  firstDay === null ? 'never' : firstDay < 1 ? 'before the term' : `week ${Math.floor((firstDay - 1) / 7) + 1}`;

export const sentWords = ({ result, reached }: Pick<ReportedRule, 'result' | 'reached'>): string =>
  `${plural(result.sent, 'nudge')} to ${plural(reached, 'student')}`;

/** Below two shares. */
export const chanceWords = ({ couldBeChance }: Pick<ComparedShares, 'couldBeChance'>): string =>
  couldBeChance ? 'This difference could be chance.' : 'More than chance.';

/** A setting that can come along, in words. */
import type { CourseParts, MessageBudget, QuietHours } from '@zest-bell/core/course';
import { clockWords, listWords, plural, WEEKDAY_NAMES, type Weekday } from '@zest-bell/core/time';

const TITLES: Readonly<Record<string, string>> = {
  quietHours: 'Quiet hours',
  budget: 'Message budget',
  groupWeights: 'Group weights',
};

export const settingTitle = (what: string): string => TITLES[what] ?? `The ${what.slice('marks.'.length)} score`;

/** What this course has of it; null for none. */
export function ownSetting({ settings, groupWeights, marks }: CourseParts, what: string): unknown {
  if (what === 'quietHours' || what === 'budget') return settings[what];
  return what === 'groupWeights' ? groupWeights : (marks[what.slice('marks.'.length)] ?? null);
}

export function settingWords(what: string, value: unknown): string {
  if (value === null || value === undefined) return 'none';
  if (what === 'quietHours') return quietWords(value);
  if (what === 'budget') {
    const { count, days } = value as MessageBudget;
    return `at most ${plural(count, 'nudge')} in ${plural(days, 'day')}`;
  }
  if (what === 'groupWeights')
    return Object.entries(value as Readonly<Record<string, number>>)
      .map(([group, weight]) => `${group} ${weight}`)
      .join('; ');
  return typeof value === 'number' ? `${value}%` : 'set';
}

function quietWords({ from, to, days = [] }: QuietHours): string {
  const hours = from && to ? [`${clockWords(from)} to ${clockWords(to)}`] : [];
  const names = days.map((d) => `all ${WEEKDAY_NAMES[d as Weekday] ?? d}`);
  return listWords([...hours, ...names]) || 'none';
}

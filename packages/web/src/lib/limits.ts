import { clockWords, listWords, plural, WEEKDAY_NAMES, type Weekday } from '@zest-bell/core/time';
import type { CourseSettings } from '@zest-bell/core/course';

/** The course's own limits in a sentence or two, below a rule. */
export function limitsWords({ quietHours, budget }: CourseSettings): string {
  const parts: string[] = [];
  if (quietHours?.from && quietHours.to && quietHours.from !== quietHours.to) {
    parts.push(`Quiet hours: nothing is sent between ${clockWords(quietHours.from)} and ${clockWords(quietHours.to)}.`);
  }
  if (quietHours?.days?.length) {
    parts.push(`Nothing is sent on ${listWords(quietHours.days.map((d) => `${WEEKDAY_NAMES[d as Weekday]}s`))}.`);
  }
  if (budget)
    parts.push(
      `Message budget: ${plural(budget.count, 'nudge')} a student in ${plural(budget.days, 'day')}${budget.strict ? ', for every step and weight' : ''}.`,
    );
  return parts.join(' ');
}

/** Words that are right only until an item is due, under a rule that goes on after it. */
import { leavesOf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import type { Rule } from '../rules/rule.ts';
import { dateOf } from '../time/calendar.ts';
import { roundInstants } from '../time/rhythm.ts';
import { dateWords } from '../time/words.ts';
import type { Check, CheckContext, Words } from './check.ts';

const STILL = /\b(still time|not too late|before it is due|closes soon|due soon|is due)\b/i;

/** Measures that hold only while there is time. */
const BEFORE_DUE: ReadonlySet<string> = new Set(['dueSoon', 'hoursUntilDue']);

export function stillTime(words: Words, { course, rules, now }: CheckContext): Check[] {
  const path = STILL.test(words.subject) ? 'subject' : 'text';
  const quote = STILL.exec(words[path])?.[0];
  if (quote === undefined) return [];
  for (const rule of rules) {
    const due = lastDueOf(rule, course);
    if (due === null) continue;
    const late = roundInstants(rule.rhythm, course.calendar, now).findLast((round) => round >= due.at);
    if (late === undefined) continue;
    const [day, dueDay] = [late, due.at].map((t) => dateWords(dateOf(course.calendar.dayNumber(t))));
    const message = `“${quote}” would also be read on ${day}: “${rule.name}” runs on after ${due.title} is due on ${dueDay}`;
    return [{ code: 'stillTime', path, quote, message, mend: null }];
  }
  return [];
}

/** The item that a rule is about, the last due of several; null where it stops on its own, or is about none with a due date. */
function lastDueOf(rule: Rule, course: Course): { readonly title: string; readonly at: number } | null {
  const leaves = leavesOf(rule.when);
  if (leaves.some((l) => BEFORE_DUE.has(l.measure))) return null;
  const named = leaves.flatMap((l) => [l.item ?? [], l.items ?? []].flat());
  const due = named.flatMap((id) => {
    const item = course.items[course.itemIndex.get(id) ?? -1];
    return item?.dueAt == null ? [] : [{ title: item.title, at: item.dueAt }];
  });
  return due.sort((a, b) => b.at - a.at)[0] ?? null;
}

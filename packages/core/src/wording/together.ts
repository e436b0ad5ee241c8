/** One message about several students (engine R11a): each of them in a line, with what the rule found. */
import { evidenceWords } from '../conditions/evidenceWords.ts';
import { evidenceOfCalls } from '../conditions/evidence.ts';
import { nameIn } from '../course/person.ts';
import type { FieldContext } from './fieldContext.ts';
import { withoutMarks } from './markup.ts';

/** The merge field that lists them. */
export const STUDENTS_LIST = 'students.list';

/** The students a message is about, in roster order: several where a step tells of all at once, else the one. */
const studentsAbout = (context: FieldContext): readonly number[] => context.together ?? [context.person];

/** A line a student: the name, told apart where two share it, and the evidence that holds. */
export function studentsList(context: FieldContext): string | null {
  const { course } = context.facts;
  const lines = studentsAbout(context).map((i) => {
    const evidence = evidenceOfCalls(context.facts, i, context.about.calls, context.at);
    const holding = evidence.filter((e) => e.verdict === true);
    const words = evidenceWords(holding.length > 0 ? holding : evidence, course.timeZone);
    return withoutMarks(`- ${nameIn(course, course.people[i]!.id)}${words === '' ? '' : `: ${words}`}`);
  });
  return lines.length === 0 ? null : lines.join('\n');
}

/** One message about several students (engine R11a): each of them in a line, with what the rule found. */
import { evidenceWords } from '../conditions/evidenceWords.ts';
import { evidenceOfCalls } from '../conditions/evidence.ts';
import { fullName } from '../course/person.ts';
import type { FieldContext } from './fields.ts';
import { withoutMarks } from './markup.ts';

/** The merge field that lists them. */
export const STUDENTS_LIST = 'students.list';

/** The students a message is about, in roster order: several where a step tells of all at once, else the one. */
export const studentsAbout = (context: FieldContext): readonly number[] => context.together ?? [context.person];

/** A line a student: name, section where two share the name, and the evidence that holds. */
export function studentsList(context: FieldContext): string | null {
  const { people, timeZone } = context.facts.course;
  const about = studentsAbout(context);
  const names = about.map((i) => fullName(people[i]!));
  const lines = about.map((i, n) => {
    const { section, email } = people[i]!;
    const alike = names.filter((name) => name === names[n]).length > 1;
    const apart = alike ? ` (${section === null ? (email ?? people[i]!.id) : `section ${section}`})` : '';
    const evidence = evidenceOfCalls(context.facts, i, context.about.calls, context.at);
    const holding = evidence.filter((e) => e.verdict === true);
    const words = evidenceWords(holding.length > 0 ? holding : evidence, timeZone);
    return withoutMarks(`- ${names[n]!}${apart}${words === '' ? '' : `: ${words}`}`);
  });
  return lines.length === 0 ? null : lines.join('\n');
}

/** Who gets the messages of a step. */
import type { Course } from '../../course/course.ts';
import { fullName, type Person } from '../../course/person.ts';
import { assertNever } from '../../problem/problem.ts';
import type { Step } from '../../rules/rule.ts';

export const RECIPIENT_KINDS = ['student', 'instructor', 'contact', 'address'] as const;
export type RecipientKind = (typeof RECIPIENT_KINDS)[number];

/** Somebody a nudge goes to: the student, or a third party who reads about them. */
export interface Recipient {
  readonly kind: RecipientKind;
  readonly name: string;
  readonly address: string;
  /** As the step names them: the audience of the words. */
  readonly reader: string;
}

/** The addresses a step writes to about a student, in the step's order, each once. */
export function recipientsOf(step: Pick<Step, 'to'>, student: Person, course: Course): Recipient[] {
  // Most steps write to the student alone.
  if (step.to.length === 1 && step.to[0] === 'student') return themselves(student);
  const all = step.to.flatMap((reader): Recipient[] => {
    if (reader === 'student') return themselves(student);
    if (reader === 'instructor') {
      return course.people
        .filter((p) => p.role === 'instructor' && p.active && p.email)
        .map((p) => ({ kind: 'instructor', name: fullName(p), address: p.email!, reader }));
    }
    if (reader.startsWith('contact:')) {
      const kind = reader.slice('contact:'.length);
      return student.contacts
        .filter((c) => c.kind === kind && c.email)
        .map((c) => ({ kind: 'contact', name: c.name, address: c.email, reader }));
    }
    if (reader.startsWith('address:')) {
      const address = reader.slice('address:'.length);
      return [{ kind: 'address', name: '', address, reader }];
    }
    return assertNever(reader as never);
  });
  if (all.length < 2) return all;
  const seen = new Set<string>();
  return all.filter((r) => {
    const key = r.address.toLowerCase();
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

const themselves = (student: Person): Recipient[] =>
  student.email ? [{ kind: 'student', name: fullName(student), address: student.email, reader: 'student' }] : [];

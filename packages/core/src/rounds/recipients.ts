import type { Course } from '../course/course.ts';
import { fullName, type Person } from '../course/person.ts';
import { assertNever } from '../problem.ts';
import type { Step } from '../rules/rule.ts';

/** Somebody a nudge goes to: the student, or a third party who reads about them. */
export interface Recipient {
  readonly kind: 'student' | 'instructor' | 'contact' | 'address';
  readonly name: string;
  readonly address: string;
}

/** The addresses a step writes to about a student, in the step's order, each once. */
export function recipientsOf(step: Step, student: Person, course: Course): Recipient[] {
  const all = step.to.flatMap((spec): Recipient[] => {
    if (spec === 'student') {
      return student.email ? [{ kind: 'student', name: fullName(student), address: student.email }] : [];
    }
    if (spec === 'instructor') {
      return course.people
        .filter((p) => p.role === 'instructor' && p.active && p.email)
        .map((p) => ({ kind: 'instructor', name: fullName(p), address: p.email! }));
    }
    if (spec.startsWith('contact:')) {
      const kind = spec.slice('contact:'.length);
      return student.contacts
        .filter((c) => c.kind === kind && c.email)
        .map((c) => ({ kind: 'contact', name: c.name, address: c.email }));
    }
    if (spec.startsWith('address:')) {
      const address = spec.slice('address:'.length);
      return [{ kind: 'address', name: '', address }];
    }
    return assertNever(spec as never);
  });
  const seen = new Set<string>();
  return all.filter((r) => {
    const key = r.address.toLowerCase();
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

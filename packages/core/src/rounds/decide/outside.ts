/** Addresses outside the institution: what leaves to them about a student is named first, and needs a yes. */
import type { Course } from '../../course/course.ts';
import { isActiveStudent } from '../../course/person.ts';
import type { Rule } from '../../rules/rule.ts';
import { recipientsOf, type Recipient } from './recipients.ts';

/** Whether an address is of one of the domains or a part of one, whatever its case. */
export function isInside(address: string, domains: readonly string[]): boolean {
  const domain = address.slice(address.lastIndexOf('@') + 1).toLowerCase();
  return domains.some((d) => domain === d.toLowerCase() || domain.endsWith(`.${d.toLowerCase()}`));
}

/** Third parties alone: a student's own address, and an instructor's of the course, are theirs. */
export const needsYes = (to: Pick<Recipient, 'kind' | 'address'>, domains: readonly string[]): boolean =>
  (to.kind === 'contact' || to.kind === 'address') && !isInside(to.address, domains);

/** Every outside address that a rule may write to about a student of its audience, each once, in the roster's order. */
export function outsideOf(rule: Rule, course: Course, domains: readonly string[]): Recipient[] {
  const { roles, sections, except } = rule.audience;
  const audience = course.people.filter(
    (p) =>
      isActiveStudent(p) &&
      roles.includes(p.role) &&
      (sections.length === 0 || (p.section !== null && sections.includes(p.section))) &&
      !except.includes(p.id),
  );
  const found = new Map<string, Recipient>();
  for (const person of audience) {
    for (const step of rule.steps) {
      for (const to of recipientsOf(step, person, course)) {
        if (needsYes(to, domains)) found.set(to.address.toLowerCase(), to);
      }
    }
  }
  return [...found.values()];
}

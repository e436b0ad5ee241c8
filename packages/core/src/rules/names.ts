/** Everything of its course that a rule names, and what of it is not there. */
import { namesOfCondition, type NameInCondition } from '../conditions/names.ts';
import { joinPath, type Problem } from '../problem/problem.ts';
import { formerTitle } from '../course/course.ts';
import type { Rule } from './rule.ts';

/** In the sentence's order. `base` is prefixed to the paths. */
export function namesOfRule(rule: Pick<Rule, 'audience' | 'when' | 'steps'>, base = ''): NameInCondition[] {
  const { sections, except } = rule.audience;
  return [
    ...sections.map((name, i): NameInCondition => ({
      kind: 'section',
      name,
      path: joinPath(base, 'audience', 'sections', i),
    })),
    ...except.map((name, i): NameInCondition => ({
      kind: 'person',
      name,
      path: joinPath(base, 'audience', 'except', i),
    })),
    ...namesOfCondition(rule.when, joinPath(base, 'when')),
    ...rule.steps.map(({ wording }, i): NameInCondition => ({
      kind: 'wording',
      name: wording,
      path: joinPath(base, 'steps', i, 'wording'),
    })),
  ];
}

/** As much of a course as says which names are in it. */
export interface NamesOfCourse {
  readonly itemIndex: { has(id: string): boolean };
  readonly personIndex: { has(id: string): boolean };
  readonly items: readonly { readonly group: string | null }[];
  readonly people: readonly { readonly section: string | null }[];
  readonly marks: Readonly<Record<string, number>>;
  readonly formerItems?: Readonly<Record<string, string>> | undefined;
}

/** Whether a course has what is named. Columns may come with the next import, and wordings are kept apart: both pass. */
export function isInCourse({ kind, name }: NameInCondition, course: NamesOfCourse): boolean {
  switch (kind) {
    case 'item':
      return course.itemIndex.has(name);
    case 'person':
      return course.personIndex.has(name);
    case 'group':
      return course.items.some((i) => i.group === name);
    case 'section':
      return course.people.some((p) => p.section === name);
    case 'mark':
      return Object.hasOwn(course.marks, name);
    case 'column':
    case 'wording':
      return true;
  }
}

/** What a sound rule still gets wrong about its course: items, groups, marks, people and sections that are not there. */
export const courseProblems = (rule: Rule, course: NamesOfCourse, base = ''): Problem[] =>
  problemsOfNames(namesOfRule(rule, base), course);

export const problemsOfNames = (names: readonly NameInCondition[], course: NamesOfCourse): Problem[] =>
  names
    .filter((named) => !isInCourse(named, course))
    .map((named) => ({ path: named.path, code: 'notInCourse', message: lackWords(named, course) }));

/** What is named and not there; an item that was removed, or has no match after carrying over, by its title. */
function lackWords({ kind, name }: NameInCondition, { formerItems }: NamesOfCourse): string {
  const title = kind === 'item' ? formerTitle(formerItems, name) : null;
  return title === null
    ? `There is no ${kind} “${name}” in this course`
    : `“${title}” is not in this course. Choose another item`;
}

/**
 * What a rule looks at or is for and its course lacks: it cannot be on so. Somebody who was left out by name and is gone, is left out
 * all the same.
 */
export const lackingNames = (
  rule: Pick<Rule, 'audience' | 'when' | 'steps'>,
  course: NamesOfCourse,
): NameInCondition[] =>
  namesOfRule(rule, 'rule').filter((named) => named.kind !== 'person' && !isInCourse(named, course));

/** Why a rule cannot run in its course, as the end of “cannot run: …”; null where it can. */
export function cannotRunWords(rule: Pick<Rule, 'audience' | 'when' | 'steps'>, course: NamesOfCourse): string | null {
  const [first] = lackingNames(rule, course);
  if (first === undefined) return null;
  const title = first.kind === 'item' ? formerTitle(course.formerItems, first.name) : null;
  if (title !== null) return `${title} is not in this course`;
  return first.kind === 'item'
    ? 'an item is not in this course'
    : `there is no ${first.kind} “${first.name}” in this course`;
}

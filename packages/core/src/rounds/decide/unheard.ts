/** Conditions on data that has never come in: completions, and visits of students for whom only last visits are known. */
import { isActiveStudent } from '../../course/person.ts';
import { CATALOGUE } from '../../measures/catalogue/catalogue.ts';
import { plural } from '../../time/words.ts';
import { leavesOf, type Condition, type Leaf } from '../../conditions/condition.ts';
import { itemOf } from '../../measures/values/measure.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import { valueAt } from '../../measures/values/timeline.ts';
import type { Instant } from '../../time/instant.ts';

export interface SilentCondition {
  /** The place of the condition among the leaves of the rule. */
  readonly leaf: number;
  readonly message: string;
  /** A condition for which the course has data, and its words; null if there is no such condition. */
  readonly instead: { readonly leaf: Leaf; readonly words: string } | null;
}

/** Conditions on completions that nobody has by `at`, and on visits that are not recorded, in the order of the leaves. */
export function unheardIn(when: Condition, facts: Facts, at: Instant): SilentCondition[] {
  return leavesOf(when).flatMap((leaf, i) => {
    const notKnown = CATALOGUE[leaf.measure].countsVisits ? visitsNotKnown(leaf, facts, at) : null;
    if (notKnown !== null) return [{ leaf: i, message: notKnown, instead: null }];
    if (leaf.measure !== 'completed' || isHeard(leaf, facts, at)) return [];
    const { course } = facts;
    const about =
      leaf.item === undefined
        ? 'No completions of the course have come in.'
        : `No completions have come in for ${itemOf(course, leaf).title}.`;
    const message = `${about} Every student counts as not completed.`;
    return [{ leaf: i, message, instead: insteadOf(leaf, facts) }];
  });
}

/** Says how many students have only last visits, which this condition cannot use (engine M5); null without such students. */
function visitsNotKnown(leaf: Leaf, facts: Facts, at: Instant): string | null {
  const { people } = facts.course;
  const lineOf = facts.timelinesOf(leaf);
  const students = people.flatMap((p, i) => (isActiveStudent(p) ? [i] : []));
  const without = students.filter(
    (i) => valueAt(lineOf(i), at) === null && facts.fact(i, leaf, at).kind === 'lastSeenOnly',
  );
  if (without.length === 0) return null;
  if (without.length === students.length)
    return 'This course knows only when each student was last seen, so this finds nobody.';
  return `Of ${plural(without.length, 'student')} it is known only when they were last seen. This finds none of them.`;
}

function isHeard(leaf: Leaf, facts: Facts, at: Instant): boolean {
  const lineOf = facts.timelinesOf(leaf);
  return facts.course.people.some((_, person) => valueAt(lineOf(person), at) === true);
}

function insteadOf(leaf: Leaf, { course }: Facts): SilentCondition['instead'] {
  if (leaf.item === undefined) return null;
  const { kind } = itemOf(course, leaf);
  const { item } = leaf;
  const isNot = (leaf.is === 'equals') === (leaf.value === false);
  if (kind === 'practice') {
    const words = isNot ? 'has not practiced' : 'has practiced';
    return { leaf: { measure: 'submitted', item, is: 'equals', value: !isNot }, words };
  }
  if (kind === 'page') {
    const opened: Leaf = isNot
      ? { measure: 'opens', item, is: 'equals', value: 0 }
      : { measure: 'opens', item, is: '>=', value: 1 };
    return { leaf: opened, words: isNot ? 'has never opened' : 'has opened' };
  }
  return null;
}
